package dev.zabbet.junit;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
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
        private final @Nullable RewindPoint found;

        @Nullable
        RewindPoint start;

        Held(StageOpening opening) {
            Stage opened = opening.open();
            stage = opening.variation().isPresent()
                    ? opened.inVariation(opening.variation().getAsLong())
                    : opened;
            found = opening.isShared() ? stage.mark() : null;
        }

        /** Leaves a database that outlives the class as it was found. */
        @Override
        public void close() {
            try (stage) {
                if (found != null) {
                    stage.rewind(found);
                }
            }
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

    /** The stage belongs to the class that carries the annotation; nested classes share it. */
    private static Held held(ExtensionContext context) {
        for (Optional<ExtensionContext> at = Optional.of(context);
                at.isPresent();
                at = at.get().getParent()) {
            ExtensionContext candidate = at.get();
            boolean ofClass = candidate.getTestMethod().isEmpty()
                    && candidate.getTestClass().isPresent();
            Optional<Staged> staged = ofClass
                    ? AnnotationSupport.findAnnotation(candidate.getRequiredTestClass(), Staged.class)
                    : Optional.empty();
            if (staged.isPresent()) {
                Class<?> testClass = candidate.getRequiredTestClass();
                return candidate
                        .getStore(SPACE)
                        .getOrComputeIfAbsent(
                                testClass, key -> new Held(new StageOpening(testClass, staged.get())), Held.class);
            }
        }
        throw new ZabbetException(context.getDisplayName() + " is in no class annotated with @Staged.");
    }
}
