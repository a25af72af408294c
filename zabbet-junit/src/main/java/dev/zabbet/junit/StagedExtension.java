package dev.zabbet.junit;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.jdbc.Jdbc;
import dev.zabbet.store.RewindPoint;
import java.util.Optional;
import java.util.concurrent.Semaphore;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.extension.AfterEachCallback;
import org.junit.jupiter.api.extension.BeforeEachCallback;
import org.junit.jupiter.api.extension.ExtensionContext;
import org.junit.jupiter.api.extension.ParameterContext;
import org.junit.jupiter.api.extension.ParameterResolver;
import org.junit.platform.commons.support.AnnotationSupport;

/** Opens a stage for a test class, hands it to tests and rewinds it after each. */
final class StagedExtension implements BeforeEachCallback, AfterEachCallback, ParameterResolver {
    private static final ExtensionContext.Namespace SPACE = ExtensionContext.Namespace.create(StagedExtension.class);

    /** The stage of a class; the semaphore lets one test at a time use it. */
    private static final class Held implements AutoCloseable {
        final Stage stage;
        final Semaphore turn = new Semaphore(1);

        @Nullable
        RewindPoint start;

        Held(Stage stage) {
            this.stage = stage;
        }

        @Override
        public void close() {
            stage.close();
        }
    }

    @Override
    public void beforeEach(ExtensionContext context) throws InterruptedException {
        Held held = held(context);
        held.turn.acquire();
        held.start = held.stage.mark();
    }

    @Override
    public void afterEach(ExtensionContext context) {
        Held held = held(context);
        try {
            if (held.start != null) {
                held.stage.rewind(held.start);
            }
        } finally {
            held.start = null;
            held.turn.release();
        }
    }

    @Override
    public boolean supportsParameter(ParameterContext parameter, ExtensionContext context) {
        Class<?> type = parameter.getParameter().getType();
        return type == Stage.class || type == DataSource.class;
    }

    @Override
    public Object resolveParameter(ParameterContext parameter, ExtensionContext context) {
        Stage stage = held(context).stage;
        return parameter.getParameter().getType() == Stage.class ? stage : stage.dataSource();
    }

    private static Held held(ExtensionContext context) {
        ExtensionContext classContext = context;
        while (classContext.getTestMethod().isPresent()) {
            classContext = classContext.getParent().orElseThrow();
        }
        Class<?> testClass = classContext.getRequiredTestClass();
        return classContext
                .getStore(SPACE)
                .getOrComputeIfAbsent(Held.class, key -> new Held(open(testClass)), Held.class);
    }

    private static Stage open(Class<?> testClass) {
        Staged staged = staged(testClass);
        if (staged.value().isEmpty() == staged.sql().isEmpty()) {
            throw new ZabbetException("@Staged on " + testClass.getName()
                    + " needs either a script, @Staged(\"/db/schema.sql\"), or statements, @Staged(sql = \"…\").");
        }
        return staged.sql().isEmpty() ? Jdbc.embedded(staged.value(), testClass) : Jdbc.embeddedSql(staged.sql());
    }

    /** A nested test class has its own stage, opened as the annotation of the class around it says. */
    private static Staged staged(Class<?> testClass) {
        for (Class<?> at = testClass; at != null; at = at.getEnclosingClass()) {
            Optional<Staged> found = AnnotationSupport.findAnnotation(at, Staged.class);
            if (found.isPresent()) {
                return found.get();
            }
        }
        throw new ZabbetException(testClass.getName() + " is not annotated with @Staged.");
    }
}
