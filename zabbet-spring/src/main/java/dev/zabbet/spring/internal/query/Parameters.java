package dev.zabbet.spring.internal.query;

import java.lang.annotation.Annotation;
import java.lang.reflect.Method;
import java.lang.reflect.Parameter;
import java.util.Set;

/** The parameters of a method as its query speaks of them: by name, by number, or one after another. */
final class Parameters {
    private static final Set<String> NAMING =
            Set.of("org.springframework.data.repository.query.Param", "jakarta.data.repository.Param");

    private final Method method;

    Parameters(Method method) {
        this.method = method;
    }

    Value named(String name) throws UnsupportedQueryException {
        Parameter[] parameters = method.getParameters();
        for (int i = 0; i < parameters.length; i++) {
            if (name(parameters[i]).equals(name)) {
                return numbered(i + 1);
            }
        }
        throw new UnsupportedQueryException(":" + name);
    }

    /** @param number counted from 1 */
    Value numbered(int number) throws UnsupportedQueryException {
        if (number < 1 || number > method.getParameterCount()) {
            throw new UnsupportedQueryException("?" + number);
        }
        return scope -> scope.call().argument(number - 1);
    }

    private static String name(Parameter parameter) throws UnsupportedQueryException {
        for (Annotation annotation : parameter.getAnnotations()) {
            if (NAMING.contains(annotation.annotationType().getName())) {
                try {
                    return (String)
                            annotation.annotationType().getMethod("value").invoke(annotation);
                } catch (ReflectiveOperationException e) {
                    throw new UnsupportedQueryException(annotation.toString());
                }
            }
        }
        return parameter.getName();
    }
}
