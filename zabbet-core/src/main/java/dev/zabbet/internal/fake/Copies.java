package dev.zabbet.internal.fake;

import dev.zabbet.internal.type.TypeShape;
import java.lang.reflect.Array;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** Keeps values as they are now: collections and objects with fields that can be written are copied. */
final class Copies {
    private static final ClassValue<Boolean> PLAIN = new ClassValue<>() {
        @Override
        protected Boolean computeValue(Class<?> type) {
            return type.isRecord()
                    || type.isEnum()
                    || type.isPrimitive()
                    || type.isHidden()
                    || type.isSynthetic()
                    || java.lang.reflect.Proxy.isProxyClass(type)
                    || type.getName().startsWith("java.")
                    || !isChangeable(type);
        }
    };

    private Copies() {}

    static @Nullable Object of(@Nullable Object value) {
        if (value == null || value instanceof Number || value instanceof String || value instanceof Record) {
            return value;
        }
        if (value instanceof List<?> list) {
            return each(list, new ArrayList<>());
        }
        if (value instanceof Set<?> set) {
            return each(set, new LinkedHashSet<>());
        }
        if (value instanceof Optional<?> optional) {
            Object held = optional.orElse(null);
            return held == null || held instanceof Record || PLAIN.get(held.getClass())
                    ? value
                    : optional.map(Copies::of);
        }
        if (value instanceof Map<?, ?> map) {
            return new LinkedHashMap<>(map);
        }
        if (value.getClass().isArray()) {
            int length = Array.getLength(value);
            Object copy = Array.newInstance(value.getClass().getComponentType(), length);
            System.arraycopy(value, 0, copy, 0, length);
            return copy;
        }
        return PLAIN.get(value.getClass()) ? value : copied(value);
    }

    private static java.util.Collection<@Nullable Object> each(
            Iterable<?> from, java.util.Collection<@Nullable Object> to) {
        from.forEach(element -> to.add(of(element)));
        return to;
    }

    private static boolean isChangeable(Class<?> type) {
        try {
            return TypeShape.of(type).isChangeable();
        } catch (RuntimeException e) {
            return false; // no object with properties: kept as it is
        }
    }

    @SuppressWarnings("unchecked")
    private static Object copied(Object value) {
        return TypeShape.of((Class<Object>) value.getClass()).copy(value);
    }
}
