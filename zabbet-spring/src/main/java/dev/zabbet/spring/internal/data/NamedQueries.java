package dev.zabbet.spring.internal.data;

import dev.zabbet.spring.internal.data.SpringDataQueries.QueryOf;
import jakarta.persistence.Entity;
import jakarta.persistence.NamedNativeQuery;
import jakarta.persistence.NamedQuery;
import java.lang.reflect.Method;
import org.jspecify.annotations.Nullable;
import org.springframework.core.annotation.AnnotationUtils;

/** Queries that stand at an entity, or at a class above it, under a name. */
final class NamedQueries {
    private NamedQueries() {}

    /**
     * Finds the query of a method.
     *
     * @param said the name that the method says; if empty, it is the entity's with the method's behind it
     */
    static @Nullable QueryOf find(String said, Method method, Class<?> entity) {
        Entity named = AnnotationUtils.findAnnotation(entity, Entity.class);
        String of = named == null || named.name().isEmpty() ? entity.getSimpleName() : named.name();
        String name = said.isEmpty() ? of + "." + method.getName() : said;
        for (Class<?> type = entity; type != null; type = type.getSuperclass()) {
            for (NamedQuery query : type.getDeclaredAnnotationsByType(NamedQuery.class)) {
                if (query.name().equals(name)) {
                    return new QueryOf(query.query(), false);
                }
            }
            for (NamedNativeQuery query : type.getDeclaredAnnotationsByType(NamedNativeQuery.class)) {
                if (query.name().equals(name)) {
                    return new QueryOf(query.query(), true);
                }
            }
        }
        return null;
    }
}
