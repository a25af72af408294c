package dev.zabbet.spring.internal.query;

import dev.zabbet.fake.CallArguments;
import dev.zabbet.fake.Tables;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** One call of a method: its arguments, and what is stored, each table read once. For one thread. */
public final class Call {
    private final Tables tables;
    private final List<@Nullable Object> arguments = new ArrayList<>();
    private final Map<Object, Collection<?>> read = new HashMap<>();

    public Call(Tables tables, CallArguments given) {
        this.tables = tables;
        for (int i = 0; i < given.size(); i++) {
            arguments.add(given.get(i));
        }
    }

    /** Returns what is written to. */
    public Tables tables() {
        return tables;
    }

    public @Nullable Object argument(int at) {
        return arguments.get(at);
    }

    /** Returns the first argument of a class; null if there is none. */
    public <T> @Nullable T argument(Class<T> type) {
        return arguments.stream()
                .filter(type::isInstance)
                .map(type::cast)
                .findFirst()
                .orElse(null);
    }

    /** Returns all objects of a type. */
    public Collection<?> objects(Class<?> type) {
        return read.computeIfAbsent(type, t -> tables.all(type).toList());
    }

    /** Returns all rows of a table. */
    public Collection<?> rows(String table) {
        return read.computeIfAbsent(table, t -> tables.rows(table));
    }
}
