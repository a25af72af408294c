package dev.zabbet.files.internal;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.row.Row;
import dev.zabbet.seed.SeedValue;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.Period;
import java.time.ZoneOffset;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** Factories that say what a document's defaults say. */
public final class DefaultFactories {
    private DefaultFactories() {}

    /**
     * Returns a factory for each table. Days from the clock are dates, other times have a time of day.
     *
     * @param name what messages begin with: the document's file, or nothing
     * @param clock where times count from
     * @throws ZabbetException if a default is none that a factory can have: a labelled row, a stored one, a file
     */
    public static Map<String, Factory<Row>> of(String name, Map<String, Row> defaults, Instant clock) {
        Map<String, Factory<Row>> factories = new LinkedHashMap<>();
        defaults.forEach((table, columns) -> {
            Factory<Row> factory = Factory.forTable(table);
            for (String column : columns.columns()) {
                factory = with(factory, name + table + "." + column, column, columns.get(column), clock);
            }
            factories.put(table, factory);
        });
        return factories;
    }

    private static Factory<Row> with(
            Factory<Row> factory, String where, String column, @Nullable Object value, Instant clock) {
        if (value instanceof SeedValue.Made made) {
            return factory.invent(column, made.how());
        }
        if (value instanceof SeedValue.AnyStored stored) {
            return stored.skewed() ? factory.refStoredSkewed(column) : factory.refStored(column);
        }
        if (value instanceof SeedValue.InTurn inTurn && inTurn.isMade()) {
            List<@Nullable Object> all = inTurn.values().stream()
                    .<@Nullable Object>map(one -> one instanceof SeedValue.Made ? one : plain(where, one, clock))
                    .toList();
            return factory.invent(column, new SeedValue.InTurn(all).how());
        }
        if (value instanceof SeedValue.InTurn inTurn) {
            List<@Nullable Object> all = inTurn.values().stream()
                    .<@Nullable Object>map(one -> plain(where, one, clock))
                    .toList();
            return all.size() == 1
                    ? factory.with(column, all.get(0))
                    : factory.inTurn(
                            column,
                            all.get(0),
                            all.get(1),
                            all.subList(2, all.size()).toArray());
        }
        return factory.with(column, plain(where, value, clock));
    }

    private static @Nullable Object plain(String where, @Nullable Object value, Instant clock) {
        if (value instanceof SeedValue.FromClock from) {
            LocalDateTime time = LocalDateTime.ofInstant(clock, ZoneOffset.UTC).plus(from.amount());
            return from.amount() instanceof Period ? time.toLocalDate() : time;
        }
        if (value instanceof SeedValue.Nested nested) {
            requirePlain(where, nested.value());
            return nested.plain() instanceof List<?> list ? list : nested.value();
        }
        if (value instanceof SeedValue) {
            throw new ZabbetException(where + ": " + value
                    + " belongs to rows of a seed; for rows that are made it can be a value, {inTurn: […]}, {invent: …},"
                    + " {between: […]}, {rising: […]}, {stored: skewed}, {plusDays: …} or {after: …}.");
        }
        return value;
    }

    private static void requirePlain(String where, @Nullable Object value) {
        if (value instanceof Map<?, ?> map) {
            map.values().forEach(part -> requirePlain(where, part));
        } else if (value instanceof List<?> list) {
            list.forEach(part -> requirePlain(where, part));
        } else if (value instanceof SeedValue) {
            throw new ZabbetException(where + ": " + value + " cannot stand inside of a document here. Name its place:"
                    + " \"doc.place\": " + value + ".");
        }
    }
}
