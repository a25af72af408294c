package dev.zabbet.spring.internal.query;

import java.math.BigDecimal;
import java.math.MathContext;
import java.math.RoundingMode;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** The functions that queries call: those of Jakarta Persistence 3.1, 4.7, which SQL has too. */
public final class Functions {
    private static final Set<String> AGGREGATES = Set.of("count", "sum", "avg", "min", "max");
    private static final Map<String, Integer> FEWEST = Map.ofEntries(
            Map.entry("concat", 1),
            Map.entry("coalesce", 1),
            Map.entry("nullif", 2),
            Map.entry("lower", 1),
            Map.entry("upper", 1),
            Map.entry("trim", 1),
            Map.entry("length", 1),
            Map.entry("abs", 1),
            Map.entry("mod", 2),
            Map.entry("sqrt", 1),
            Map.entry("floor", 1),
            Map.entry("ceiling", 1),
            Map.entry("round", 1),
            Map.entry("substring", 2),
            Map.entry("locate", 2),
            Map.entry("size", 1),
            Map.entry("str", 1));

    private Functions() {}

    static boolean isAggregate(String name) {
        return AGGREGATES.contains(name);
    }

    /**
     * Returns the call of a function.
     *
     * @throws UnsupportedQueryException if it is not known
     */
    public static Value of(String name, List<Value> parts) throws UnsupportedQueryException {
        Integer fewest = FEWEST.get(name);
        if (fewest == null || parts.size() < fewest) {
            throw new UnsupportedQueryException(name + "()");
        }
        return scope -> {
            List<@Nullable Object> values = new ArrayList<>();
            parts.forEach(part -> values.add(part.in(scope)));
            return call(name, values);
        };
    }

    private static @Nullable Object call(String name, List<@Nullable Object> values) {
        if (name.equals("coalesce")) {
            return values.stream().filter(Objects::nonNull).findFirst().orElse(null);
        }
        if (name.equals("concat")) {
            StringBuilder text = new StringBuilder();
            values.forEach(value -> text.append(value == null ? "" : value));
            return text.toString();
        }
        Object first = values.get(0);
        if (name.equals("nullif")) {
            return Boolean.TRUE.equals(Operators.compared("=", first, values.get(1))) ? null : first;
        }
        return values.stream().anyMatch(Objects::isNull) ? null : known(name, Objects.requireNonNull(first), values);
    }

    private static @Nullable Object known(String name, Object first, List<@Nullable Object> values) {
        return switch (name) {
            case "lower" -> first.toString().toLowerCase(Locale.ROOT);
            case "upper" -> first.toString().toUpperCase(Locale.ROOT);
            case "trim" -> first.toString().strip();
            case "str" -> first.toString();
            case "length" -> (long) first.toString().length();
            case "size" -> ((Collection<?>) first).size();
            case "substring" -> substring(first.toString(), values);
            case "locate" -> (long) String.valueOf(values.get(1)).indexOf(first.toString()) + 1;
            case "mod" -> Operators.arithmetic('%', first, values.get(1));
            default -> number(name, new BigDecimal(first.toString()), values);
        };
    }

    private static Object number(String name, BigDecimal number, List<@Nullable Object> values) {
        return switch (name) {
            case "abs" -> number.abs();
            case "sqrt" -> number.sqrt(MathContext.DECIMAL64);
            case "floor" -> number.setScale(0, RoundingMode.FLOOR);
            case "ceiling" -> number.setScale(0, RoundingMode.CEILING);
            default -> number.setScale(values.size() > 1 ? whole(values.get(1)) : 0, RoundingMode.HALF_UP);
        };
    }

    private static String substring(String text, List<@Nullable Object> values) {
        int from = Math.max(0, whole(values.get(1)) - 1);
        int to = values.size() > 2 ? from + whole(values.get(2)) : text.length();
        return from >= text.length() ? "" : text.substring(from, Math.min(text.length(), to));
    }

    private static int whole(@Nullable Object number) {
        return new BigDecimal(String.valueOf(number)).intValueExact();
    }

    /** @param of what is counted, added or compared; null counts what there is */
    static Value aggregate(String name, @Nullable Value of, boolean distinct) {
        return scope -> {
            if (of == null) {
                return (long) scope.group().size();
            }
            List<Object> values = new ArrayList<>();
            for (Scope member : scope.group()) {
                Object value = of.in(member);
                if (value != null) {
                    values.add(value);
                }
            }
            if (distinct) {
                Map<Object, Object> once = new LinkedHashMap<>();
                values.forEach(value -> once.putIfAbsent(Objects.requireNonNull(Operators.stored(value)), value));
                values = new ArrayList<>(once.values());
            }
            if (name.equals("count")) {
                return (Object) (long) values.size();
            }
            if (values.isEmpty()) {
                return null;
            }
            return over(name, values);
        };
    }

    /** As Jakarta Persistence 3.1, 4.8.5 types them. */
    private static @Nullable Object over(String name, List<Object> values) {
        if (name.equals("min") || name.equals("max")) {
            values.sort(Operators.ORDER);
            return values.get(name.equals("min") ? 0 : values.size() - 1);
        }
        BigDecimal sum =
                values.stream().map(value -> new BigDecimal(value.toString())).reduce(BigDecimal.ZERO, BigDecimal::add);
        if (name.equals("avg")) {
            return sum.divide(BigDecimal.valueOf(values.size()), MathContext.DECIMAL64)
                    .doubleValue();
        }
        Object first = values.get(0);
        if (first instanceof BigDecimal) {
            return sum;
        }
        if (first instanceof Double || first instanceof Float) {
            return (Object) sum.doubleValue();
        }
        return sum.longValueExact();
    }
}
