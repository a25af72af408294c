package dev.zabbet.spring;

import dev.zabbet.junit.ClassStage;
import dev.zabbet.junit.Staged;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import org.jspecify.annotations.Nullable;
import org.junit.platform.commons.support.AnnotationSupport;
import org.springframework.context.ApplicationContext;
import org.springframework.context.ApplicationListener;
import org.springframework.context.ConfigurableApplicationContext;
import org.springframework.context.event.ContextClosedEvent;

/** The stages of the test classes that run now, each on the database of one application context. */
final class StagesOfClasses {
    private static final Map<Class<?>, Held> HELD = new ConcurrentHashMap<>();
    private static final ThreadLocal<@Nullable Class<?>> RUNNING = new ThreadLocal<>();

    private StagesOfClasses() {}

    /**
     * A stage that is open.
     *
     * @param context the context whose database it is on
     */
    private record Held(ClassStage stage, ApplicationContext context) {}

    /** Returns the class that carries {@link Staged}: a test class itself, or one around it. */
    static Optional<Class<?>> owner(Class<?> testClass) {
        for (Class<?> at = testClass; at != null; at = at.getEnclosingClass()) {
            if (AnnotationSupport.isAnnotated(at, Staged.class)) {
                return Optional.of(at);
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

    /** Finds the open stage of a class. */
    static Optional<ClassStage> find(Class<?> owner) {
        return Optional.ofNullable(HELD.get(owner)).map(Held::stage);
    }

    /** Closes the stage of a class, if one is open. */
    static void close(Class<?> owner) {
        Held held = HELD.remove(owner);
        if (held != null) {
            held.stage().close();
        }
    }

    /** Says which class's tests run on this thread from now on. */
    static void runs(Class<?> owner) {
        RUNNING.set(owner);
    }

    /** Returns the class annotated with {@link Staged} whose tests run on this thread. */
    static Optional<Class<?>> running() {
        return Optional.ofNullable(RUNNING.get());
    }

    /** Says that no class's tests run on this thread any more. */
    static void ends() {
        RUNNING.remove();
    }
}
