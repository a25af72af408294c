package dev.zabbet.spring.internal.context;

import dev.zabbet.Stage;
import dev.zabbet.junit.internal.StageHost;
import org.junit.jupiter.api.extension.ExtendWith;
import org.junit.jupiter.api.extension.ExtensionContext;
import org.junit.platform.commons.support.AnnotationSupport;
import org.springframework.test.context.junit.jupiter.SpringExtension;

/** Gives test classes that Spring runs the stage on their application context's database. */
public final class SpringHost implements StageHost {

    @Override
    public boolean hosts(Class<?> testClass) {
        for (Class<?> at = testClass; at != null; at = at.getEnclosingClass()) {
            boolean extended = AnnotationSupport.findRepeatableAnnotations(at, ExtendWith.class).stream()
                    .flatMap(with -> java.util.stream.Stream.of(with.value()))
                    .anyMatch(SpringExtension.class::isAssignableFrom);
            if (extended) {
                return true;
            }
        }
        return false;
    }

    @Override
    public Stage stage(Class<?> testClass, ExtensionContext context) {
        return StagesOfClasses.open(
                        testClass,
                        StagesOfClasses.context(testClass)
                                .orElseGet(() -> SpringExtension.getApplicationContext(context)))
                .stage();
    }
}
