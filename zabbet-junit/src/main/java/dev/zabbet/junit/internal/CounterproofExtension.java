package dev.zabbet.junit.internal;

import dev.zabbet.junit.Counterproof;
import dev.zabbet.junit.EveryStage;
import java.util.List;
import java.util.stream.Stream;
import org.junit.jupiter.api.extension.BeforeClassTemplateInvocationCallback;
import org.junit.jupiter.api.extension.ClassTemplateInvocationContext;
import org.junit.jupiter.api.extension.ClassTemplateInvocationContextProvider;
import org.junit.jupiter.api.extension.Extension;
import org.junit.jupiter.api.extension.ExtensionContext;
import org.junit.platform.commons.support.AnnotationSupport;

/** Runs a class as it is written, and once more as a counterproof. Where it runs on several stages, those do it. */
public final class CounterproofExtension implements ClassTemplateInvocationContextProvider {

    @Override
    public boolean supportsClassTemplate(ExtensionContext context) {
        Class<?> testClass = context.getRequiredTestClass();
        return isAsked(testClass) && !AnnotationSupport.isAnnotated(testClass, EveryStage.class);
    }

    static boolean isAsked(Class<?> testClass) {
        return AnnotationSupport.isAnnotated(testClass, Counterproof.class);
    }

    @Override
    public Stream<ClassTemplateInvocationContext> provideClassTemplateInvocationContexts(ExtensionContext context) {
        ClassTemplateInvocationContext counterproof = new ClassTemplateInvocationContext() {
            @Override
            public String getDisplayName(int invocationIndex) {
                return "counterproof";
            }

            @Override
            public List<Extension> getAdditionalExtensions() {
                return List.of(new Beginning());
            }
        };
        if (CounterproofProperty.isSet()) {
            return Stream.of(counterproof);
        }
        return Stream.of(
                new ClassTemplateInvocationContext() {
                    @Override
                    public String getDisplayName(int invocationIndex) {
                        return "as written";
                    }
                },
                counterproof);
    }

    /** Says that what follows is a counterproof, in which hollow tests fail. */
    static final class Beginning implements BeforeClassTemplateInvocationCallback {
        @Override
        public void beforeClassTemplateInvocation(ExtensionContext context) {
            StoryExtension.beginCounterproof(context);
        }
    }
}
