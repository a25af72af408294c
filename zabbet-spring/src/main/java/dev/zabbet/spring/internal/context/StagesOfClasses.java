package dev.zabbet.spring.internal.context;

import dev.zabbet.junit.Staged;
import dev.zabbet.junit.internal.ClassStage;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import org.jspecify.annotations.Nullable;
import org.junit.platform.commons.support.AnnotationSupport;
import org.springframework.context.ApplicationContext;
import org.springframework.context.ApplicationListener;
import org.springframework.context.ConfigurableApplicationContext;
import org.springframework.context.event.ContextClosedEvent;
import org.springframework.test.context.TestContext;

/** The stages of the test classes that run now, each on the database of one application context. */
final class StagesOfClasses {
    private static final Map<Class<?>, Held> HELD = new ConcurrentHashMap<>();
    private static final Map<Class<?>, TestContext> BEGUN = new ConcurrentHashMap<>();
    private static final ThreadLocal<@Nullable Class<?>> RUNNING = new ThreadLocal<>();

    private StagesOfClasses() {}

    /**
     * A stage that is open.
     *
     * @param context the context whose database it is on
     */
    private record Held(ClassStage stage, ApplicationContext context) {}

    /**
     * Returns the class annotated with {@link Staged} whose stage a test class has: itself, or one around it. A nested class
     * that is inherited belongs to the class that inherits it, as far as that runs on this thread.
     */
    static Optional<Class<?>> owner(Class<?> testClass) {
        for (Class<?> at = testClass; at != null; at = at.getEnclosingClass()) {
            if (AnnotationSupport.isAnnotated(at, Staged.class)) {
                Class<?> running = RUNNING.get();
                boolean inherited = at != testClass
                        && running != null
                        && at.isAssignableFrom(running)
                        && BEGUN.containsKey(running);
                return Optional.of(inherited ? running : at);
            }
        }
        return Optional.empty();
    }

    /** Returns the stage of a class annotated with {@link Staged}; a context that is another one than before has a new one. */
    static ClassStage open(Class<?> owner, ApplicationContext context) {
        Held held = HELD.get(owner);
        if (held != null && held.context() == context) {
            return held.stage();
        }
        close(owner);
        Staged staged = AnnotationSupport.findAnnotation(owner, Staged.class).orElseThrow();
        ClassStage opened = ClassStage.open(owner, staged, ContextDatabase.of(context, staged.dataSource(), owner));
        Held now = new Held(opened, context);
        HELD.put(owner, now);
        if (context instanceof ConfigurableApplicationContext closing) {
            // Before its pool is closed, which would take the stage's connection away.
            closing.addApplicationListener((ApplicationListener<ContextClosedEvent>) event -> {
                if (event.getApplicationContext() == context && HELD.remove(owner, now)) {
                    opened.close();
                }
            });
        }
        return opened;
    }

    /** Returns the context of a class's tests; that of the current test if the class has not begun by itself. */
    static ApplicationContext context(Class<?> owner, TestContext test) {
        TestContext begun = BEGUN.get(owner);
        return (begun == null ? test : begun).getApplicationContext();
    }

    /** Finds the context of a class whose tests have begun. */
    static Optional<ApplicationContext> context(Class<?> owner) {
        return Optional.ofNullable(BEGUN.get(owner)).map(TestContext::getApplicationContext);
    }

    /** Finds the open stage of a class. */
    static Optional<ClassStage> find(Class<?> owner) {
        return Optional.ofNullable(HELD.get(owner)).map(Held::stage);
    }

    private static void close(Class<?> owner) {
        Held held = HELD.remove(owner);
        if (held != null) {
            held.stage().close();
        }
    }

    /** Says that the tests of a class begin. */
    static void begin(TestContext test) {
        owner(test.getTestClass()).ifPresent(owner -> {
            if (owner == test.getTestClass()) {
                BEGUN.put(owner, test);
            }
            RUNNING.set(owner);
        });
    }

    /** Says that the tests of a class have ended; of one inside the class that has the stage, that goes on if it has begun. */
    static void end(TestContext test) {
        owner(test.getTestClass()).ifPresent(owner -> {
            if (owner == test.getTestClass()) {
                BEGUN.remove(owner);
            }
            if (!BEGUN.containsKey(owner)) {
                RUNNING.remove();
                close(owner);
            }
        });
    }

    /** Says which class's tests run on this thread from now on. */
    static void runs(Class<?> owner) {
        RUNNING.set(owner);
    }

    /** Returns the class annotated with {@link Staged} whose tests run on this thread. */
    static Optional<Class<?>> running() {
        return Optional.ofNullable(RUNNING.get());
    }
}
