package dev.zabbet.jdbc.internal.dialect;

import dev.zabbet.internal.store.NetChanges;
import dev.zabbet.jdbc.internal.dialect.Journal.Event;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Change;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;

/**
 * The net effect of events. Of a row with a key the first state and the last count; rows without a key are counted: as
 * many alike ones were stored or deleted as events say, less those that undo each other.
 */
public final class NetEffect {
    /** What has to happen in one table so that everything is as before. */
    public static final class Undo {
        public final List<Row> toDelete = new ArrayList<>();
        public final List<Event> toTakeAway = new ArrayList<>();
        public final List<Event> toRestore = new ArrayList<>();
    }

    private final Schema schema;
    private final Map<Table, Map<Row, Span>> keyed = new LinkedHashMap<>();
    private final Map<Table, Map<Row, List<Event>>> appeared = new LinkedHashMap<>();
    private final Map<Table, Map<Row, List<Event>>> vanished = new LinkedHashMap<>();

    public NetEffect(Schema schema, List<Event> events) {
        this.schema = schema;
        events.forEach(event -> {
            if (!CurrentRows.isKeyed(event)) {
                count(event);
            } else {
                follow(event);
            }
        });
    }

    /** What happened to a key: its first event says what was there before, its last what is there now. */
    private record Span(Event first, Event last) {
        Span then(Span later) {
            return new Span(first, later.last());
        }
    }

    private void follow(Event event) {
        Map<Row, Span> rows = keyed.computeIfAbsent(event.table(), t -> new LinkedHashMap<>());
        Row before = event.before();
        Row after = event.after();
        if (before != null) {
            Row key = CurrentRows.key(event.table(), before);
            boolean moved =
                    after != null && !CurrentRows.key(event.table(), after).equals(key);
            Event last = after == null || moved ? new Event(event.number(), event.table(), before, null) : event;
            rows.merge(key, new Span(event, last), Span::then);
        }
        if (after != null) {
            Row key = CurrentRows.key(event.table(), after);
            boolean moved =
                    before == null || !CurrentRows.key(event.table(), before).equals(key);
            if (moved) {
                Event first = new Event(event.number(), event.table(), null, after);
                rows.merge(key, new Span(first, first), Span::then);
            }
        }
    }

    private void count(Event event) {
        Row before = event.before();
        Row after = event.after();
        if (before != null && !takeBack(appeared, event.table(), before)) {
            put(vanished, event.table(), before, event);
        }
        if (after != null && !takeBack(vanished, event.table(), after)) {
            put(appeared, event.table(), after, event);
        }
    }

    private static void put(Map<Table, Map<Row, List<Event>>> all, Table table, Row row, Event event) {
        all.computeIfAbsent(table, t -> new LinkedHashMap<>())
                .computeIfAbsent(row, r -> new ArrayList<>())
                .add(event);
    }

    private static boolean takeBack(Map<Table, Map<Row, List<Event>>> all, Table table, Row row) {
        List<Event> events = all.getOrDefault(table, Map.of()).get(row);
        if (events == null || events.isEmpty()) {
            return false;
        }
        events.remove(events.size() - 1);
        return true;
    }

    /** Returns the changes, by table in the schema's order. */
    public List<Change> changes() {
        NetChanges net = new NetChanges(schema);
        keyed.forEach((table, rows) -> rows.forEach((key, span) ->
                net.add(table, key, span.first().before(), span.last().after())));
        appeared.forEach((table, rows) -> rows.forEach((row, events) -> {
            for (Event event : events) {
                net.add(table, event, null, row);
            }
        }));
        vanished.forEach((table, rows) -> rows.forEach((row, events) -> {
            for (Event event : events) {
                net.add(table, List.of(event), row, null);
            }
        }));
        return net.changes();
    }

    public boolean isEmpty() {
        return keyed.isEmpty() && appeared.isEmpty() && vanished.isEmpty();
    }

    /** Returns how many rows the events touched. */
    public int rows() {
        return Stream.of(keyed, appeared, vanished)
                .flatMap(all -> all.values().stream())
                .mapToInt(Map::size)
                .sum();
    }

    /**
     * Returns what undoes the events, by table.
     *
     * @param others events that came later and are not to be undone: rows that they touched are left alone
     */
    public Map<Table, Undo> undo(NetEffect others) {
        Map<Table, Undo> all = new LinkedHashMap<>();
        keyed.forEach((table, rows) -> rows.forEach((key, span) -> {
            if (others.keyed.getOrDefault(table, Map.of()).containsKey(key)) {
                return;
            }
            Undo undo = all.computeIfAbsent(table, t -> new Undo());
            undo.toDelete.add(key); // there or not
            if (span.first().before() != null) {
                undo.toRestore.add(span.first());
            }
        }));
        appeared.forEach((table, rows) -> rows.forEach((row, events) -> events.forEach(
                e -> all.computeIfAbsent(table, t -> new Undo()).toTakeAway.add(e))));
        vanished.forEach((table, rows) -> rows.forEach((row, events) -> events.forEach(
                e -> all.computeIfAbsent(table, t -> new Undo()).toRestore.add(e))));
        return all;
    }
}
