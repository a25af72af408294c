package dev.zabbet.serve.internal.deliver;

import dev.zabbet.error.ZabbetException;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** What is sent in one place: a column's value, or something that stands in the mapping. */
sealed interface MappedValue {
    /** A column of the row; of rows of another table that are delivered along, if that is named. */
    record OfColumn(@Nullable String table, String column) implements MappedValue {}

    /** A value as it is. */
    record Literal(@Nullable Object value) implements MappedValue {}

    /** A variable of the environment; its value is not shown. */
    record Environment(String name) implements MappedValue {
        String value() {
            return Optional.ofNullable(System.getenv(name))
                    .filter(text -> !text.isBlank())
                    .orElseThrow(
                            () -> new ZabbetException("The environment has no " + name + ", which the mapping sends."));
        }
    }

    /** Reads what stands in a mapping: the name of a column, {@code {literal: …}} or {@code {env: NAME}}. */
    static MappedValue of(String where, @Nullable Object written) {
        if (written instanceof String column && !column.isBlank()) {
            int dot = column.indexOf('.');
            return dot < 0
                    ? new OfColumn(null, column)
                    : new OfColumn(column.substring(0, dot), column.substring(dot + 1));
        }
        if (written instanceof Map<?, ?> map && map.size() == 1) {
            Object name = map.keySet().iterator().next();
            Object value = map.get(name);
            if ("literal".equals(name)) {
                return new Literal(value);
            }
            if ("env".equals(name) && value instanceof String variable) {
                return new Environment(variable);
            }
        }
        throw new ZabbetException(where + ": say a column, {literal: value} or {env: NAME}; it was '" + written + "'.");
    }
}
