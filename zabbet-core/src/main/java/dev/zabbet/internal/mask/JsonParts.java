package dev.zabbet.internal.mask;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.BiConsumer;
import java.util.function.BiFunction;
import java.util.function.UnaryOperator;
import org.jspecify.annotations.Nullable;

/** The texts and numbers inside of a JSON document, each with the place that it stands at; positions in arrays do not count. */
final class JsonParts {
    private JsonParts() {}

    static void each(@Nullable Object value, Place at, BiConsumer<Place, Object> work) {
        BiFunction<Place, Object, Object> kept = (place, part) -> {
            work.accept(place, part);
            return part;
        };
        replaced(value, at, kept, name -> name);
    }

    /**
     * Returns a document with other parts.
     *
     * @param parts gives what stands in a part's place
     * @param names gives what stands in the place of a name that is a value itself
     */
    static @Nullable Object replaced(
            @Nullable Object value, Place at, BiFunction<Place, Object, Object> parts, UnaryOperator<String> names) {
        if (value instanceof Map<?, ?> map) {
            Map<String, @Nullable Object> all = new LinkedHashMap<>();
            map.forEach((key, part) -> {
                String name = String.valueOf(key);
                boolean isValue = isValue(name);
                all.put(
                        isValue ? names.apply(name) : name,
                        replaced(part, at.inside(isValue ? "*" : name), parts, names));
            });
            return all;
        }
        if (value instanceof List<?> list) {
            List<@Nullable Object> all = new ArrayList<>();
            list.forEach(part -> all.add(replaced(part, at.path().isEmpty() ? at.inside("[]") : at, parts, names)));
            return all;
        }
        boolean leaf = value instanceof String || value instanceof Number;
        return leaf ? parts.apply(at.path().isEmpty() ? at.inside("[]") : at, value) : value;
    }

    /** Some documents are kept by addresses or identifiers: such a name says nothing, and may be personal itself. */
    private static boolean isValue(String name) {
        return ContentSigns.isEmail(name)
                || ContentSigns.isPhone(name)
                || ContentSigns.isUuid(name)
                || ContentSigns.isHexadecimal(name)
                || (!name.isEmpty() && name.chars().allMatch(Character::isDigit));
    }
}
