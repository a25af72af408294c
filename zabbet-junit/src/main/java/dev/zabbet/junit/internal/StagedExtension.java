package dev.zabbet.junit.internal;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.junit.Staged;
import java.util.List;
import java.util.Optional;
import java.util.ServiceLoader;
import java.util.Set;
import java.util.stream.Stream;
import javax.sql.DataSource;
import org.junit.jupiter.api.extension.AfterAllCallback;
import org.junit.jupiter.api.extension.AfterEachCallback;
import org.junit.jupiter.api.extension.BeforeEachCallback;
import org.junit.jupiter.api.extension.ExtensionContext;
import org.junit.jupiter.api.extension.ParameterContext;
import org.junit.jupiter.api.extension.ParameterResolver;
import org.junit.platform.commons.support.AnnotationSupport;

/** Opens a stage for a test class, hands it to tests and rewinds it after each. */
public final class StagedExtension
        implements BeforeEachCallback, AfterEachCallback, AfterAllCallback, ParameterResolver {
    private static final ExtensionContext.Namespace SPACE = ExtensionContext.Namespace.create(StagedExtension.class);
    private static final Set<String> INJECTED = Set.of("Autowired", "Inject", "Qualifier", "Value");
    private static final List<StageHost> HOSTS =
            ServiceLoader.load(StageHost.class, StageHost.class.getClassLoader()).stream()
                    .map(ServiceLoader.Provider::get)
                    .toList();

    @Override
    public void beforeEach(ExtensionContext context) throws InterruptedException {
        if (host(context).isEmpty()) { // which calls the stage between its own callbacks
            ClassStage held = held(context);
            held.beforeTest();
            StoryExtension.tells(context, held.stage());
        }
    }

    @Override
    public void afterEach(ExtensionContext context) {
        if (host(context).isPresent()) {
            return;
        }
        ClassStage held = held(context);
        try {
            if (context.getExecutionException().isEmpty()) {
                held.expect();
            }
        } catch (AssertionError e) {
            if (!StoryExtension.keepsBack(context, e)) {
                throw e;
            }
        } finally {
            held.afterTest();
        }
    }

    /** Older versions of JUnit do not close by themselves what is kept for a class. */
    @Override
    public void afterAll(ExtensionContext context) {
        ClassStage held = context.getStore(SPACE).remove(context.getRequiredTestClass(), ClassStage.class);
        if (held != null) {
            held.close();
        }
    }

    @Override
    public boolean supportsParameter(ParameterContext parameter, ExtensionContext context) {
        Class<?> type = parameter.getParameter().getType();
        if (host(context).isEmpty()) {
            return type == Stage.class || type == DataSource.class;
        }
        return type == Stage.class && !isInjected(parameter);
    }

    /** What an annotation asks a framework for is the framework's to give. */
    private static boolean isInjected(ParameterContext parameter) {
        return Stream.of(parameter.getParameter().getAnnotations())
                .anyMatch(a -> INJECTED.contains(a.annotationType().getSimpleName()));
    }

    @Override
    public Object resolveParameter(ParameterContext parameter, ExtensionContext context) {
        Optional<StageHost> host = host(context);
        if (host.isPresent()) {
            return host.get().stage(owner(context).getRequiredTestClass(), context);
        }
        Stage stage = held(context).stage();
        return parameter.getParameter().getType() == Stage.class ? stage : stage.dataSource();
    }

    /** Tells whether a framework runs the tests, on connections of its own. */
    static boolean isHosted(ExtensionContext context) {
        return host(context).isPresent();
    }

    private static Optional<StageHost> host(ExtensionContext context) {
        Class<?> testClass = context.getRequiredTestClass();
        return HOSTS.stream().filter(host -> host.hosts(testClass)).findFirst();
    }

    private static ClassStage held(ExtensionContext context) {
        ExtensionContext owner = owner(context);
        Class<?> testClass = owner.getRequiredTestClass();
        Staged staged =
                AnnotationSupport.findAnnotation(testClass, Staged.class).orElseThrow();
        return owner.getStore(SPACE)
                .getOrComputeIfAbsent(
                        testClass, key -> new StageOpening(testClass, staged, null).hold(), ClassStage.class);
    }

    /** The stage belongs to the class that carries the annotation; nested classes share it. */
    private static ExtensionContext owner(ExtensionContext context) {
        for (Optional<ExtensionContext> at = Optional.of(context);
                at.isPresent();
                at = at.get().getParent()) {
            ExtensionContext candidate = at.get();
            boolean ofClass = candidate.getTestMethod().isEmpty()
                    && candidate.getTestClass().isPresent();
            if (ofClass && AnnotationSupport.isAnnotated(candidate.getRequiredTestClass(), Staged.class)) {
                return candidate;
            }
        }
        throw new ZabbetException(context.getDisplayName() + " is in no class annotated with @Staged.");
    }
}
