package dev.zabbet.internal.jsonschema;

import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * One schema of a {@link JsonSchema}: the whole one, or one of those inside. Two nodes are equal if they stand at the same place.
 *
 * @param raw what was read: a map of keywords, true or false
 * @param resource the URI of the resource that it belongs to: what {@code $id} says
 * @param place where it stands in its file, as a JSON pointer
 */
public record SchemaNode(Object raw, String resource, String place) {

    @Override
    public boolean equals(@Nullable Object other) {
        return other instanceof SchemaNode node && node.place.equals(place) && node.raw == raw;
    }

    @Override
    public int hashCode() {
        return place.hashCode();
    }

    /** Returns the keywords; none of a schema that is only true or false. */
    @SuppressWarnings("unchecked")
    public Map<String, @Nullable Object> keywords() {
        return raw instanceof Map ? (Map<String, @Nullable Object>) raw : Map.of();
    }

    /** Tells whether it allows nothing at all. */
    public boolean isNever() {
        return Boolean.FALSE.equals(raw);
    }

    public boolean has(String keyword) {
        return keywords().containsKey(keyword);
    }

    public @Nullable Object value(String keyword) {
        return keywords().get(keyword);
    }

    public Optional<BigDecimal> number(String keyword) {
        return value(keyword) instanceof BigDecimal number ? Optional.of(number) : Optional.empty();
    }

    public Optional<String> text(String keyword) {
        return value(keyword) instanceof String text ? Optional.of(text) : Optional.empty();
    }

    public boolean isTrue(String keyword) {
        return Boolean.TRUE.equals(value(keyword));
    }

    /** Returns the texts that a keyword lists; none if it is not there. */
    public List<String> texts(String keyword) {
        return value(keyword) instanceof List<?> list
                ? list.stream().map(String::valueOf).toList()
                : List.of();
    }

    /** Returns the schema that a keyword holds. */
    public Optional<SchemaNode> schema(String keyword) {
        Object held = value(keyword);
        return held instanceof Map || held instanceof Boolean ? Optional.of(at(held, keyword)) : Optional.empty();
    }

    /** Returns the schemas that a keyword lists; none if it is not there. */
    public List<SchemaNode> schemas(String keyword) {
        List<SchemaNode> nodes = new ArrayList<>();
        if (value(keyword) instanceof List<?> list) {
            for (int i = 0; i < list.size(); i++) {
                Object held = list.get(i);
                if (held != null) {
                    nodes.add(at(held, keyword + "/" + i));
                }
            }
        }
        return nodes;
    }

    /** Returns the schemas that a keyword holds by name; none if it is not there. */
    public Map<String, SchemaNode> named(String keyword) {
        Map<String, SchemaNode> nodes = new LinkedHashMap<>();
        if (value(keyword) instanceof Map<?, ?> map) {
            map.forEach((name, held) -> nodes.put(
                    String.valueOf(name), at(held, keyword + "/" + JsonPointer.escaped(String.valueOf(name)))));
        }
        return nodes;
    }

    private SchemaNode at(Object held, String steps) {
        return new SchemaNode(held, JsonPointer.resource(held, resource), place + "/" + steps);
    }
}
