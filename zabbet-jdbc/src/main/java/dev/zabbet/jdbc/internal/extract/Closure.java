package dev.zabbet.jdbc.internal.extract;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.extract.Extract;
import dev.zabbet.extract.Extract.Asked;
import dev.zabbet.extract.Extract.Below;
import dev.zabbet.internal.document.RowPart;
import dev.zabbet.internal.report.RowFilter;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.value.CanonicalForm;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.SplitMix;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import java.math.BigDecimal;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.function.Consumer;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * Finds the rows of an extract: those asked for, the parents of all up to the roots, and rows below where that was asked for, until
 * nothing new is found. Of tables with too many rows to hold, only keys and references are read; circles end where all their rows are known.
 */
final class Closure {
    private static final int AT_ONCE = 256;
    private static final int PARTS_AT_ONCE = 40;

    private final Snapshot snapshot;
    private final Schema schema;
    private final Extract extract;
    private final DocumentParts documents;
    private final Map<String, TableKeys> tables = new LinkedHashMap<>();
    private final Scope scope;
    private final HeldRows held = new HeldRows();
    private final Map<TableKeys, Map<List<String>, Map<Object, Wanted>>> wanted = new LinkedHashMap<>();
    private final Set<String> notes = new LinkedHashSet<>();
    private final Map<String, Indexes> indexes = new HashMap<>();

    /** A row that somebody refers to. */
    private record Wanted(List<@Nullable Object> values, String reason, boolean byDocument) {}

    Closure(Snapshot snapshot, Schema schema, Extract extract) {
        this.snapshot = snapshot;
        this.schema = schema;
        this.extract = extract;
        this.documents = new DocumentParts(schema, extract);
        schema.tables().forEach(table -> tables.put(table.name(), new TableKeys(table, schema, extract, documents)));
        this.scope = new Scope(schema, extract, tables.values());
    }

    TableKeys of(Table table) {
        return Objects.requireNonNull(tables.get(table.name()));
    }

    /** What is said of places in documents. */
    DocumentParts documents() {
        return documents;
    }

    HeldRows held() {
        return held;
    }

    List<String> notes() {
        return List.copyOf(notes);
    }

    void find() throws SQLException {
        for (Map.Entry<Table, Asked> one : scope.asked().entrySet()) {
            if (one.getValue().wanted()) {
                ask(of(one.getKey()), one.getValue());
            }
        }
        do {
            bringParents();
        } while (goDown());
        for (Below below : scope.belowByName()) {
            noteNothingBelow(scope.tableOf(below), below);
        }
    }

    private void noteNothingBelow(Table table, Below below) {
        Asked what = scope.asked().getOrDefault(table, NOTHING_SAID);
        if (of(table).size() > 0 || what.wanted()) {
            return;
        }
        List<String> above =
                table.references().stream().map(Reference::target).distinct().toList();
        notes.add("Nothing of " + below.table() + " was taken: no row of " + String.join(" or ", above)
                + " that was taken has such rows below it.");
    }

    private void ask(TableKeys keys, Asked what) throws SQLException {
        Table table = keys.table();
        if (!what.keys().isEmpty()) {
            askKeys(keys, what.keys());
        }
        boolean others = what.rows().isPresent() || what.share().compareTo(BigDecimal.ONE) < 0;
        if (!what.keys().isEmpty() && !others) {
            return;
        }
        boolean shared = what.share().signum() > 0 && what.share().doubleValue() < 1;
        Snapshot.End end =
                new Snapshot.End(order(keys, what), shared ? 0 : what.rows().orElse(0));
        long limit = (long) (what.share().doubleValue() * 0x1p53);
        String reason = "asked for";
        noteIndexes(keys, what);
        keys.search();
        if (shared && keys.key().isEmpty()) {
            throw new ZabbetException(
                    table.name() + " has no key, so that no share of its rows can be told from the others.");
        }
        Consumer<Row> take = row -> {
            boolean enough = shared
                    && what.rows().isPresent()
                    && keys.size() >= what.rows().get();
            boolean chosen = !shared
                    || SplitMix.mix(SplitMix.name(table.name(), String.valueOf(keys.keyOf(row)))) >>> 11 < limit;
            if (chosen && !enough) {
                add(keys, row, 0, reason);
            }
        };
        snapshot.read(table, held.columns(keys), condition(table, what), what.sql(), end, take);
        if (keys.size() == 0) {
            notes.add("There is no row of " + table.name() + " as it was asked for.");
        }
    }

    private void askKeys(TableKeys keys, List<Object> wantedKeys) throws SQLException {
        Table table = keys.table();
        List<String> names = keys.key().stream().map(Column::name).toList();
        List<Object> tuples = new ArrayList<>();
        for (Object key : wantedKeys) {
            List<?> parts = key instanceof List<?> list ? list : List.of(key);
            if (parts.size() != names.size()) {
                throw new ZabbetException("A key of " + table.name() + " is "
                        + (names.isEmpty() ? "nothing: it has none" : String.join(", ", names)) + "; given was "
                        + Words.cut(String.valueOf(key), 60) + ".");
            }
            List<@Nullable Object> values = new ArrayList<>();
            for (int i = 0; i < parts.size(); i++) {
                try {
                    values.add(CanonicalForm.of(keys.key().get(i).type(), parts.get(i)));
                } catch (InexactValueException e) {
                    throw new ZabbetException(table.name() + "." + names.get(i) + " is "
                            + keys.key().get(i).type().sqlName() + ", and " + e.clause() + ".");
                }
            }
            tuples.add(keys.tuple(names, values));
        }
        for (List<Object> some : parts(tuples, AT_ONCE)) {
            snapshot.read(
                    table,
                    held.columns(keys),
                    keys.isOneOf(names, some),
                    List.of(),
                    Snapshot.End.ALL,
                    row -> add(keys, row, 0, "asked for"));
        }
        for (Object tuple : tuples) {
            if (keys.depth(tuple) < 0) {
                throw new ZabbetException("There is no row of " + table.name() + " with the key " + tuple + ".");
            }
        }
    }

    private static Condition condition(Table table, Asked what) {
        Condition all = Condition.all();
        for (Extract.Where where : what.where()) {
            all = all.and(RowFilter.of(table, where.column(), where.value()).condition());
        }
        return all;
    }

    private String order(TableKeys keys, Asked what) {
        List<String> parts = new ArrayList<>();
        for (String one : what.order()) {
            boolean down = one.startsWith("-");
            Column column = keys.table().requireColumn(down ? one.substring(1) : one);
            parts.add(snapshot.dialect().quote(column.sqlName()) + (down ? " DESC" : ""));
        }
        keys.key().forEach(column -> parts.add(snapshot.dialect().quote(column.sqlName())));
        return parts.isEmpty() ? "" : " ORDER BY " + String.join(", ", parts);
    }

    private Indexes indexes(Table table) throws SQLException {
        Indexes known = indexes.get(table.name());
        if (known == null) {
            known = new Indexes(snapshot.connection(), table);
            indexes.put(table.name(), known);
        }
        return known;
    }

    private void noteIndexes(TableKeys keys, Asked what) throws SQLException {
        Indexes own = indexes(keys.table());
        List<String> columns = new ArrayList<>();
        what.where()
                .forEach(where ->
                        columns.add(RowPart.of(keys.table(), where.column()).name()));
        if (!columns.isEmpty() && columns.stream().noneMatch(own::beginWith)) {
            notes.add("No index begins with " + keys.table().name() + "." + String.join(" or .", columns)
                    + ": all rows of " + keys.table().name() + " were looked at.");
        }
        if (!what.order().isEmpty() && what.rows().isPresent()) {
            String first = what.order().get(0).replaceFirst("^-", "");
            String column = keys.table().requireColumn(first).name();
            if (!own.beginWith(column)) {
                notes.add("No index begins with " + keys.table().name() + "." + column + ": all rows of "
                        + keys.table().name() + " were put in order.");
            }
        }
    }

    private void add(TableKeys keys, Row read, int depth, String reason) {
        Row row = documents.without(keys.table(), read);
        if (!keys.add(row, depth, reason)) {
            return;
        }
        held.add(keys, row);
        if (keys.size() > extract.most()) {
            throw new ZabbetException(
                    "More than " + extract.most() + " rows of " + keys.table().name() + " would be taken (" + reason
                            + "). Nothing was written. Ask for less, or allow more by --most.");
        }
        for (Reference reference : keys.references()) {
            List<@Nullable Object> values =
                    reference.columns().stream().map(row::get).collect(Collectors.toList());
            if (values.stream().anyMatch(Objects::isNull)) {
                continue; // refers to nothing (MATCH SIMPLE)
            }
            TableKeys target = of(schema.require(reference.target()));
            if (target.find(reference.targetColumns(), values) == null) {
                wanted.computeIfAbsent(target, t -> new LinkedHashMap<>())
                        .computeIfAbsent(reference.targetColumns(), c -> new LinkedHashMap<>())
                        .putIfAbsent(
                                target.tuple(reference.targetColumns(), values),
                                new Wanted(
                                        values,
                                        "needed by " + keys.table().name() + "."
                                                + String.join("+", reference.columns()),
                                        false));
            }
        }
        documents.keys(keys.table(), row).forEach(key -> want(keys.table(), key));
    }

    /** Looks for the row that a document refers to. */
    private void want(Table table, DocumentParts.Key key) {
        TableKeys target = of(key.ref().target());
        String place = table.name() + "." + key.ref().place().name();
        if (key.value() == null) {
            notes.add("A document holds something at " + place + " that is no key of "
                    + target.table().name() + "; it is kept.");
            return;
        }
        List<String> columns = target.table().keyColumns();
        List<@Nullable Object> values = List.of(key.value());
        if (target.find(columns, values) == null) {
            wanted.computeIfAbsent(target, t -> new LinkedHashMap<>())
                    .computeIfAbsent(columns, c -> new LinkedHashMap<>())
                    .putIfAbsent(target.tuple(columns, values), new Wanted(values, "needed by " + place, true));
        }
    }

    private void bringParents() throws SQLException {
        while (!wanted.isEmpty()) {
            TableKeys target = wanted.keySet().iterator().next();
            Map<List<String>, Map<Object, Wanted>> byColumns = Objects.requireNonNull(wanted.remove(target));
            for (Map.Entry<List<String>, Map<Object, Wanted>> one : byColumns.entrySet()) {
                List<Object> missing = one.getValue().entrySet().stream()
                        .filter(e -> target.find(one.getKey(), e.getValue().values()) == null)
                        .map(Map.Entry::getKey)
                        .toList();
                for (List<Object> some : parts(missing, AT_ONCE)) {
                    bring(target, one.getKey(), some, one.getValue());
                }
            }
        }
    }

    private void bring(TableKeys target, List<String> columns, List<Object> tuples, Map<Object, Wanted> rows)
            throws SQLException {
        String any = Objects.requireNonNull(rows.get(tuples.get(0))).reason();
        snapshot.read(
                target.table(),
                held.columns(target),
                target.isOneOf(columns, tuples),
                List.of(),
                Snapshot.End.ALL,
                row -> {
                    Object tuple =
                            target.tuple(columns, columns.stream().map(row::get).toList());
                    Wanted known = rows.get(tuple);
                    add(target, row, TableKeys.CAME_ALONG, known == null ? any : known.reason());
                });
        for (Object tuple : tuples) {
            Wanted known = Objects.requireNonNull(rows.get(tuple));
            if (target.find(columns, known.values()) == null) {
                bringOne(target, columns, tuple, known);
            }
        }
    }

    /** The database may take another text for the same: in another case, with blanks at its end. */
    private void bringOne(TableKeys target, List<String> columns, Object tuple, Wanted known) throws SQLException {
        List<Object> found = new ArrayList<>();
        snapshot.read(
                target.table(),
                held.columns(target),
                target.isOneOf(columns, List.of(tuple)),
                List.of(),
                Snapshot.End.ALL,
                row -> {
                    add(target, row, TableKeys.CAME_ALONG, known.reason());
                    found.add(target.keyOf(row));
                });
        if (found.isEmpty()) {
            notes.add("A row of " + target.table().name() + " that is " + known.reason()
                    + " is not there: "
                    + (known.byDocument()
                            ? "the document keeps the key, which leads nowhere."
                            : "the database holds references that lead nowhere, and the extract will not load."));
        } else {
            target.alias(columns, known.values(), found.get(0));
        }
    }

    /** Goes down from rows that are new; returns whether there were any to go down from. */
    private boolean goDown() throws SQLException {
        boolean gone = false;
        for (TableKeys parent : List.copyOf(tables.values())) {
            List<Object> fresh = parent.fresh();
            for (Table child : fresh.isEmpty() ? List.<Table>of() : scope.wholeTables()) {
                for (Reference reference : of(child).references()) {
                    Optional<Below> below =
                            reference.target().equals(parent.table().name())
                                    ? scope.below(child, reference)
                                    : Optional.empty();
                    if (below.isPresent()) {
                        boolean along = scope.goesDownFromParents(child, below.get());
                        List<Object> from = fresh.stream()
                                .filter(k -> along || parent.depth(k) >= 0)
                                .filter(k -> parent.depth(k) < extract.depth())
                                .toList();
                        goDown(parent, of(child), reference, below.get(), from);
                        gone |= !from.isEmpty();
                    }
                }
            }
        }
        return gone;
    }

    private void goDown(TableKeys parent, TableKeys child, Reference reference, Below below, List<Object> from)
            throws SQLException {
        Table table = child.table();
        Asked what = scope.asked().getOrDefault(table, NOTHING_SAID);
        List<String> columns = reference.columns();
        String reason = "below " + parent.table().name() + ", by " + String.join("+", columns);
        if (!from.isEmpty() && !indexes(table).beginWith(columns.get(0))) {
            notes.add("No index begins with " + table.name() + "." + columns.get(0) + ": all rows of " + table.name()
                    + " were looked at for those below " + parent.table().name() + ".");
        }
        List<Object> tuples = new ArrayList<>();
        for (Object key : from) {
            Object tuple = parent.other(reference.targetColumns(), key);
            if (tuple != null) {
                tuples.add(tuple);
            }
        }
        Consumer<Row> take = row -> {
            Object above = parent.find(
                    reference.targetColumns(), columns.stream().map(row::get).toList());
            int depth = above == null ? 0 : Math.max(0, parent.depth(above));
            add(child, row, depth + 1, reason);
        };
        child.search();
        Condition also = condition(table, what);
        if (below.rows().isEmpty()) {
            for (List<Object> some : parts(tuples, AT_ONCE)) {
                snapshot.read(
                        table,
                        held.columns(child),
                        also.and(parent.isReferredToBy(reference, some)),
                        what.sql(),
                        new Snapshot.End(order(child, what), 0),
                        take);
            }
            return;
        }
        Snapshot.End end = new Snapshot.End(order(child, what), below.rows().get());
        for (List<Object> some : parts(tuples, PARTS_AT_ONCE)) {
            List<Condition> each = some.stream()
                    .map(tuple -> also.and(parent.isReferredToBy(reference, List.of(tuple))))
                    .toList();
            snapshot.readAll(table, held.columns(child), each, what.sql(), end, take);
        }
    }

    private static final Asked NOTHING_SAID =
            new Asked(false, Optional.empty(), BigDecimal.ONE, List.of(), List.of(), List.of(), List.of());

    private static <T> List<List<T>> parts(List<T> all, int size) {
        List<List<T>> parts = new ArrayList<>();
        for (int from = 0; from < all.size(); from += size) {
            parts.add(all.subList(from, Math.min(all.size(), from + size)));
        }
        return parts;
    }
}
