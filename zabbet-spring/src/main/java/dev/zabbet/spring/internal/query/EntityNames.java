package dev.zabbet.spring.internal.query;

import dev.zabbet.internal.type.EntityMapping;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.TypeShape;
import jakarta.persistence.Entity;
import java.lang.reflect.ParameterizedType;
import java.lang.reflect.Type;
import java.util.LinkedHashSet;
import java.util.Set;
import org.springframework.util.ClassUtils;

/**
 * Finds entities by the names that queries call them: the repository's own, those that it leads to by relations, and those in
 * the same packages as these.
 */
final class EntityNames {
    private final Class<?> root;

    EntityNames(Class<?> root) {
        this.root = root;
    }

    Class<?> named(String name) throws UnsupportedQueryException {
        Set<Class<?>> known = new LinkedHashSet<>();
        visit(root, known);
        for (Class<?> type : known) {
            if (name(type).equalsIgnoreCase(name) || type.getName().equals(name)) {
                return type;
            }
        }
        for (Class<?> type : known) {
            Class<?> beside = beside(type, name);
            if (beside != null) {
                return beside;
            }
        }
        throw new UnsupportedQueryException(name);
    }

    private static @org.jspecify.annotations.Nullable Class<?> beside(Class<?> type, String name) {
        String full = type.getPackageName() + "." + name;
        if (!ClassUtils.isPresent(full, type.getClassLoader())) {
            return null;
        }
        Class<?> found = ClassUtils.resolveClassName(full, type.getClassLoader());
        return EntityMapping.isEntity(found) ? found : null;
    }

    private static String name(Class<?> type) {
        Entity entity = type.getAnnotation(Entity.class);
        return entity == null || entity.name().isEmpty() ? type.getSimpleName() : entity.name();
    }

    @SuppressWarnings("unchecked")
    private static void visit(Class<?> type, Set<Class<?>> known) {
        if (!EntityMapping.isEntity(type) || !known.add(type)) {
            return;
        }
        for (Prop prop : TypeShape.of((Class<Object>) type).ownProperties()) {
            visit(prop.type(), known);
            if (prop.generic() instanceof ParameterizedType of) {
                for (Type argument : of.getActualTypeArguments()) {
                    if (argument instanceof Class<?> element) {
                        visit(element, known);
                    }
                }
            }
        }
    }
}
