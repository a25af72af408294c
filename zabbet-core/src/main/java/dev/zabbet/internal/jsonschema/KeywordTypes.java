package dev.zabbet.internal.jsonschema;

import java.math.BigDecimal;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** Which values the keywords of a schema have, as the draft's own schema says. */
final class KeywordTypes {
    private static final List<String> NUMBERS =
            List.of("minimum", "maximum", "exclusiveMinimum", "exclusiveMaximum", "multipleOf");
    private static final List<String> COUNTS = List.of(
            "minLength",
            "maxLength",
            "minItems",
            "maxItems",
            "minContains",
            "maxContains",
            "minProperties",
            "maxProperties");
    private static final List<String> TEXTS =
            List.of("$id", "$schema", "$ref", "$anchor", "$dynamicAnchor", "pattern", "format");
    private static final List<String> SCHEMAS = List.of("allOf", "anyOf", "oneOf", "prefixItems");
    private static final List<String> BY_NAME =
            List.of("properties", "patternProperties", "dependentSchemas", "$defs", "dependentRequired");
    static final List<String> TYPES = List.of("null", "boolean", "object", "array", "number", "string", "integer");

    private KeywordTypes() {}

    /** Returns in words what a keyword's value has to be, if it is something else; null if it is right. */
    static @Nullable String wanted(String keyword, @Nullable Object value) {
        if (NUMBERS.contains(keyword)) {
            boolean step = keyword.equals("multipleOf");
            boolean right = value instanceof BigDecimal number && (!step || number.signum() > 0);
            return right ? null : "a number" + (step ? " above 0" : "");
        }
        if (COUNTS.contains(keyword)) {
            return isCount(value) ? null : "a whole number of at least 0";
        }
        if (TEXTS.contains(keyword)) {
            return value instanceof String ? null : "a text";
        }
        if (SCHEMAS.contains(keyword)) {
            return value instanceof List<?> list && !list.isEmpty() ? null : "a list of at least one schema";
        }
        if (BY_NAME.contains(keyword)) {
            return value instanceof Map ? null : "an object";
        }
        return switch (keyword) {
            case "type" -> isType(value) ? null : "one or several of " + String.join(", ", TYPES);
            case "enum" -> value instanceof List ? null : "a list";
            case "required" ->
                value instanceof List<?> list && list.stream().allMatch(String.class::isInstance)
                        ? null
                        : "a list of names";
            case "uniqueItems" -> value instanceof Boolean ? null : "true or false";
            default -> null;
        };
    }

    private static boolean isCount(@Nullable Object value) {
        return value instanceof BigDecimal number
                && number.signum() >= 0
                && number.stripTrailingZeros().scale() <= 0
                && number.compareTo(BigDecimal.valueOf(Integer.MAX_VALUE)) <= 0;
    }

    private static boolean isType(@Nullable Object value) {
        return value instanceof List<?> list
                ? !list.isEmpty() && TYPES.containsAll(list)
                : value instanceof String && TYPES.contains(value);
    }
}
