package dev.zabbet.internal.fake;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.internal.value.ValueEquality;
import dev.zabbet.row.Matcher;
import dev.zabbet.type.DataType;
import java.lang.reflect.Method;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collections;
import java.util.List;
import java.util.Objects;
import org.jspecify.annotations.Nullable;

/** Which arguments are meant: values, or matchers. */
public final class Arguments {
    public static final Arguments ANY = new Arguments(null);

    private final @Nullable List<@Nullable Object> wanted;

    private Arguments(@Nullable List<@Nullable Object> wanted) {
        this.wanted = wanted;
    }

    /**
     * Returns what the arguments of a call are compared with.
     *
     * @throws ZabbetException if there are not as many as the method has
     */
    public static Arguments of(Method method, @Nullable Object[] wanted) {
        if (wanted.length != method.getParameterCount()) {
            throw new ZabbetException(method.getName() + " takes " + Words.count(method.getParameterCount(), "argument")
                    + ", and with was given " + wanted.length
                    + ". Give any() for one that does not matter.");
        }
        for (int i = 0; i < wanted.length; i++) {
            Class<?> type = JavaValue.boxed(method.getParameterTypes()[i]);
            Object value = wanted[i];
            if (value != null && !(value instanceof Matcher) && !type.isInstance(value) && !bothNumbers(type, value)) {
                throw new ZabbetException("Argument " + (i + 1) + " of " + method.getName() + " is a "
                        + type.getSimpleName() + ", and with was given "
                        + value.getClass().getSimpleName() + " "
                        + value + ".");
            }
        }
        return new Arguments(Collections.unmodifiableList(new ArrayList<>(Arrays.asList(wanted))));
    }

    private static boolean bothNumbers(Class<?> type, Object value) {
        return Number.class.isAssignableFrom(type) && value instanceof Number;
    }

    boolean match(@Nullable Object[] given) {
        return match(Arrays.asList(given));
    }

    public boolean match(List<@Nullable Object> given) {
        List<@Nullable Object> all = wanted;
        if (all == null) {
            return true;
        }
        for (int i = 0; i < all.size(); i++) {
            Object want = all.get(i);
            Object value = given.get(i);
            boolean same = want instanceof Matcher matcher
                    ? matcher.matches(
                            DataType.of(JavaValue.kindOf(value == null ? Object.class : value.getClass()), ""),
                            canonical(value))
                    : ValueEquality.values(want, value) || Objects.deepEquals(want, value);
            if (!same) {
                return false;
            }
        }
        return true;
    }

    /** Matchers compare values as columns hold them. */
    private static @Nullable Object canonical(@Nullable Object value) {
        if (value instanceof Integer || value instanceof Short || value instanceof Byte) {
            return (Object) ((Number) value).longValue();
        }
        if (value instanceof Enum<?> constant) {
            return constant.name();
        }
        return value;
    }

    /** Returns {@code (1, any)}, or nothing if all are meant. */
    public String describe() {
        List<@Nullable Object> all = wanted;
        return all == null
                ? ""
                : "("
                        + String.join(
                                ", ",
                                all.stream()
                                        .map(a -> a instanceof Matcher m
                                                ? m.describe()
                                                : Words.cut(String.valueOf(a), 80))
                                        .toList())
                        + ")";
    }
}
