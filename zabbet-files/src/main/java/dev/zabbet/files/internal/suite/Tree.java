package dev.zabbet.files.internal.suite;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** A part of JSON whose names are known; what is not there is empty or 0. */
record Tree(Map<?, ?> fields) {
    static Tree of(@Nullable Object tree) {
        return new Tree(tree instanceof Map<?, ?> map ? map : Map.of());
    }

    String text(String name) {
        Object value = fields.get(name);
        return value == null ? "" : value.toString();
    }

    long number(String name) {
        return fields.get(name) instanceof Number number ? number.longValue() : 0;
    }

    Tree tree(String name) {
        return of(fields.get(name));
    }

    List<Tree> list(String name) {
        return fields.get(name) instanceof List<?> list
                ? list.stream().map(Tree::of).toList()
                : List.of();
    }

    List<String> texts(String name) {
        return fields.get(name) instanceof List<?> list
                ? list.stream().map(String::valueOf).toList()
                : List.of();
    }

    /** Returns all fields with their texts, in order. */
    Map<String, String> texts() {
        Map<String, String> texts = new LinkedHashMap<>();
        fields.forEach((name, value) -> texts.put(String.valueOf(name), String.valueOf(value)));
        return texts;
    }
}
