package dev.zabbet.spring.internal.query;

import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.type.Kind;
import java.lang.reflect.InvocationHandler;
import java.lang.reflect.Proxy;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/** Objects of an interface whose methods read what was selected. */
final class View {
    private View() {}

    static Object of(Class<?> face, Function<String, @Nullable Object> read) {
        return Proxy.newProxyInstance(face.getClassLoader(), new Class<?>[] {face}, (proxy, method, arguments) -> {
            if (method.isDefault()) {
                return InvocationHandler.invokeDefault(proxy, method, arguments);
            }
            return switch (method.getName()) {
                case "equals" -> proxy == arguments[0];
                case "hashCode" -> System.identityHashCode(proxy);
                case "toString" -> "a " + face.getSimpleName();
                default -> converted(method.getReturnType(), read.apply(property(method.getName())));
            };
        });
    }

    private static @Nullable Object converted(Class<?> type, @Nullable Object value) throws InexactValueException {
        boolean known = JavaValue.kindOf(type) != Kind.OTHER;
        return value == null || !known ? value : JavaValue.to(type, value);
    }

    /** Returns the property that a method reads. */
    static String property(String method) {
        String name = method.replaceFirst("^(get|is)(?=[A-Z])", "");
        return Character.toLowerCase(name.charAt(0)) + name.substring(1);
    }
}
