package dev.zabbet.junit;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import java.util.Optional;
import javax.sql.DataSource;
import org.junit.jupiter.api.extension.AfterEachCallback;
import org.junit.jupiter.api.extension.BeforeEachCallback;
import org.junit.jupiter.api.extension.ExtensionContext;
import org.junit.jupiter.api.extension.ParameterContext;
import org.junit.jupiter.api.extension.ParameterResolver;
import org.junit.platform.commons.support.AnnotationSupport;

/** Opens a stage for a test class, hands it to tests and rewinds it after each. */
final class StagedExtension implements BeforeEachCallback, AfterEachCallback, ParameterResolver {
    private static final ExtensionContext.Namespace SPACE = ExtensionContext.Namespace.create(StagedExtension.class);

    @Override
    public void beforeEach(ExtensionContext context) throws InterruptedException {
        held(context).beforeEach();
    }

    @Override
    public void afterEach(ExtensionContext context) {
        held(context).afterEach(context.getExecutionException().isEmpty());
    }

    @Override
    public boolean supportsParameter(ParameterContext parameter, ExtensionContext context) {
        Class<?> type = parameter.getParameter().getType();
        return type == Stage.class || type == DataSource.class;
    }

    @Override
    public Object resolveParameter(ParameterContext parameter, ExtensionContext context) {
        Stage stage = held(context).stage();
        return parameter.getParameter().getType() == Stage.class ? stage : stage.dataSource();
    }

    /** The stage belongs to the class that carries the annotation; nested classes share it. */
    private static HeldStage held(ExtensionContext context) {
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
                                testClass, key -> new StageOpening(testClass, staged.get()).hold(), HeldStage.class);
            }
        }
        throw new ZabbetException(context.getDisplayName() + " is in no class annotated with @Staged.");
    }
}
