package dev.zabbet.spring.internal.data;

import dev.zabbet.spring.internal.criteria.CriteriaQueries;
import jakarta.persistence.criteria.CommonAbstractCriteria;
import jakarta.persistence.criteria.CriteriaBuilder;
import jakarta.persistence.criteria.From;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Method;
import java.lang.reflect.Modifier;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Conditions that are put together by criteria, of all the kinds that Spring Data has. */
final class SpringDataSpecifications {
    private static final String PACKAGE = "org.springframework.data.jpa.domain.";

    private SpringDataSpecifications() {}

    static boolean isSpecification(Class<?> parameter) {
        return parameter.getName().startsWith(PACKAGE) && putting(parameter) != null;
    }

    /** Returns the method of a kind that puts a condition together; null if it asks for something else than a query has. */
    private static @Nullable Method putting(Class<?> kind) {
        return Stream.of(kind.getMethods())
                .filter(method -> method.getName().equals("toPredicate")
                        && Modifier.isAbstract(method.getModifiers())
                        && Stream.of(method.getParameterTypes())
                                .allMatch(type -> From.class.isAssignableFrom(type)
                                        || CommonAbstractCriteria.class.isAssignableFrom(type)
                                        || type == CriteriaBuilder.class))
                .findFirst()
                .orElse(null);
    }

    /** @param specification one of a kind that is one; null for no condition */
    static CriteriaQueries.Condition condition(Class<?> kind, @Nullable Object specification) {
        Method method = java.util.Objects.requireNonNull(putting(kind));
        return parts -> {
            if (specification == null) {
                return null;
            }
            List<@Nullable Object> arguments = new ArrayList<>();
            for (Class<?> type : method.getParameterTypes()) {
                arguments.add(parts.of(type));
            }
            return call(method, specification, arguments);
        };
    }

    private static @Nullable Object call(Method method, Object of, List<@Nullable Object> arguments) {
        try {
            method.setAccessible(true);
            return method.invoke(of, arguments.toArray());
        } catch (InvocationTargetException e) {
            throw e.getCause() instanceof RuntimeException runtime ? runtime : new IllegalStateException(e.getCause());
        } catch (IllegalAccessException e) {
            throw new IllegalStateException(e);
        }
    }
}
