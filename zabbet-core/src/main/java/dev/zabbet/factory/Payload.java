package dev.zabbet.factory;

import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.internal.value.Json;
import dev.zabbet.row.Row;
import java.util.ArrayList;
import java.util.Base64;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Writes objects and rows as maps of what JSON knows: text, numbers, booleans, null, lists and maps. */
public final class Payload {
    /** How the names of a payload are written. */
    public enum Naming {
        /** As {@code hutId}. */
        CAMEL,
        /** As {@code hut_id}. */
        SNAKE
    }

    private final Naming naming;
    private final @Nullable PayloadForm form; // of the application; null for the one described here

    private Payload(Naming naming, @Nullable PayloadForm form) {
        this.naming = naming;
        this.form = form;
    }

    /**
     * {@return what a client would send for a row or an object}
     *
     * @param thing a row, or an object
     * @param naming how names are written
     */
    public static Map<String, @Nullable Object> of(Object thing, Naming naming) {
        return new Payload(naming, null).map(thing);
    }

    /**
     * {@return what a client would send for a row or an object to an application that reads it in a form of its own}
     *
     * @param thing a row, or an object
     * @param form how names and values are written
     */
    public static Map<String, @Nullable Object> of(Object thing, PayloadForm form) {
        return new Payload(Naming.CAMEL, form).map(thing);
    }

    /**
     * {@return the name of a column in a form, or as {@code hutId} without one}
     *
     * @param column the column that the value is from
     * @param naming how names are written
     * @param form how names and values are written
     */
    public static String name(String column, Naming naming, @Nullable PayloadForm form) {
        return new Payload(naming, form).named(column);
    }

    /**
     * {@return the same of values by names, in which a dot leads into an object that is held}
     *
     * @param values the values by the names of properties
     * @param naming how names are written
     */
    @SuppressWarnings("unchecked")
    public static Map<String, @Nullable Object> ofNames(Map<String, @Nullable Object> values, Naming naming) {
        Payload payload = new Payload(naming, null);
        Map<String, @Nullable Object> all = new LinkedHashMap<>();
        values.forEach((name, value) -> {
            Map<String, @Nullable Object> at = all;
            String[] path = name.split("\\.");
            for (int i = 0; i < path.length - 1; i++) {
                at = (Map<String, @Nullable Object>) java.util.Objects.requireNonNull(
                        at.computeIfAbsent(payload.named(path[i]), n -> new LinkedHashMap<String, @Nullable Object>()));
            }
            at.put(payload.named(path[path.length - 1]), payload.value(value));
        });
        return all;
    }

    @SuppressWarnings("unchecked")
    private Map<String, @Nullable Object> map(Object thing) {
        Map<String, @Nullable Object> map = new LinkedHashMap<>();
        if (thing instanceof Row row) {
            row.columns().forEach(column -> map.put(named(column), value(row.get(column))));
            return map;
        }
        TypeShape<Object> shape = TypeShape.of((Class<Object>) thing.getClass());
        List<Prop> sent = shape.ownProperties().stream()
                .filter(prop -> !shape.isEntity()
                        || prop.isReference()
                        || (!shape.isGenerated(prop) && !shape.isReadOnly(prop) && !prop.isRelations()))
                .toList();
        boolean read = sent.stream().anyMatch(prop -> isRead(shape.type(), prop));
        for (Prop prop : sent) {
            if (shape.isEntity() && prop.isReference()) {
                map.put(named(prop.name() + "Id"), value(shape.readStored(thing, prop)));
            } else if (!read || isRead(shape.type(), prop)) { // of a type that is no JSON at all everything is sent
                map.put(named(shape.type(), prop.name()), value(shape.read(thing, prop)));
            }
        }
        return map;
    }

    private boolean isRead(Class<?> type, Prop prop) {
        return form == null || form.name(type, prop.name()).isPresent();
    }

    private String named(Class<?> type, String property) {
        return form == null ? named(property) : form.name(type, property).orElse(property);
    }

    private String named(String name) {
        PayloadForm own = form;
        if (own != null) {
            return own.name(new Payload(Naming.CAMEL, null).named(name));
        }
        String snake = Words.snakeCase(name);
        if (naming == Naming.SNAKE) {
            return snake;
        }
        StringBuilder camel = new StringBuilder();
        for (String part : snake.split("_")) {
            camel.append(
                    camel.length() == 0 || part.isEmpty()
                            ? part
                            : part.substring(0, 1).toUpperCase(Locale.ROOT) + part.substring(1));
        }
        return camel.toString();
    }

    private @Nullable Object value(@Nullable Object value) {
        PayloadForm own = form;
        if (own != null) {
            return own.value(value instanceof Optional<?> optional ? optional.orElse(null) : value);
        }
        if (value == null || value instanceof String || value instanceof Number || value instanceof Boolean) {
            return value;
        }
        if (Json.isTree(value.getClass())) {
            return Json.read(value.toString()).map(Json.Document::value).orElse(value.toString());
        }
        if (value instanceof Optional<?> optional) {
            return value(optional.orElse(null));
        }
        if (value instanceof Enum<?> constant) {
            return constant.name();
        }
        if (value instanceof byte[] bytes) {
            return Base64.getEncoder().encodeToString(bytes);
        }
        if (value instanceof Collection<?> collection) {
            List<@Nullable Object> list = new ArrayList<>();
            collection.forEach(element -> list.add(value(element)));
            return list;
        }
        if (value instanceof Object[] array) {
            return value(List.of(array));
        }
        if (value instanceof Map<?, ?> map) {
            Map<String, @Nullable Object> copy = new LinkedHashMap<>();
            map.forEach((key, held) -> copy.put(String.valueOf(key), value(held)));
            return copy;
        }
        return value.getClass().getName().startsWith("java.") ? value.toString() : map(value);
    }
}
