package dev.zabbet.serve.internal.deliver;

import dev.zabbet.error.UnknownNameException;
import dev.zabbet.error.ZabbetException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** A part of a mapping file: members with known names, and where they stand. */
final class MappingPart {
    private final String where;
    private final Map<String, @Nullable Object> members = new LinkedHashMap<>();

    MappingPart(String where, @Nullable Object tree) {
        this.where = where;
        if (tree == null) {
            return;
        }
        if (!(tree instanceof Map<?, ?> map)) {
            throw new ZabbetException(where + " has to be an object with members; it is '" + tree + "'.");
        }
        map.forEach((name, value) -> members.put(String.valueOf(name), value));
    }

    String where() {
        return where;
    }

    MappingPart knowing(String... names) {
        for (String name : members.keySet()) {
            if (!List.of(names).contains(name)) {
                throw new ZabbetException(
                        where + ": " + new UnknownNameException("member", name, List.of(names)).getMessage());
            }
        }
        return this;
    }

    List<String> names() {
        return new ArrayList<>(members.keySet());
    }

    @Nullable
    Object value(String name) {
        return members.get(name);
    }

    @Nullable
    String text(String name) {
        Object value = members.get(name);
        if (value instanceof Map || value instanceof List) {
            throw new ZabbetException(where + ": '" + name + "' has to be a text.");
        }
        return value == null ? null : String.valueOf(value);
    }

    MappingPart part(String name) {
        return new MappingPart(where + ", " + name, members.get(name));
    }
}
