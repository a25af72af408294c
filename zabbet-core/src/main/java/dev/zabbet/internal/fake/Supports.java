package dev.zabbet.internal.fake;

import dev.zabbet.fake.Definition;
import dev.zabbet.schema.Schema;
import dev.zabbet.store.ConstraintException;
import java.lang.reflect.Method;
import java.util.List;
import java.util.Optional;
import java.util.ServiceLoader;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/** What is known of frameworks here. */
final class Supports {
    private static final List<FakeSupport> ALL =
            ServiceLoader.load(FakeSupport.class, FakeSupport.class.getClassLoader()).stream()
                    .map(ServiceLoader.Provider::get)
                    .toList();

    private Supports() {}

    private static <V> Optional<V> first(Function<FakeSupport, Optional<V>> ask) {
        return ALL.stream().map(ask).flatMap(Optional::stream).findFirst();
    }

    static Optional<Definition> definition(Method method, Optional<Class<?>> entity, Schema schema) {
        return entity.flatMap(of -> first(support -> support.definition(method, of, schema)));
    }

    static Optional<FakeSupport.SelectionForm> selection(Class<?> parameter) {
        return first(support -> support.selection(parameter));
    }

    static boolean isManaging(Class<?> type) {
        return ALL.stream().anyMatch(support -> support.isManaging(type));
    }

    static boolean isLazy(Method method) {
        return ALL.stream().anyMatch(support -> support.isLazy(method));
    }

    static boolean isClearing(Method method) {
        return ALL.stream().anyMatch(support -> support.isClearing(method));
    }

    static Optional<FakeSupport.PartForm> part(Class<?> result) {
        return first(support -> support.part(result));
    }

    static @Nullable Throwable thrown(Class<?> type, ConstraintException refusal) {
        return first(support -> support.thrown(type, refusal)).orElse(null);
    }
}
