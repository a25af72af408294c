package dev.zabbet.jdbc.internal.extract;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.extract.Extract;
import dev.zabbet.extract.ExtractSummary;
import dev.zabbet.extract.ExtractTarget;
import dev.zabbet.extract.ExtractedRow;
import dev.zabbet.extract.Masking;
import dev.zabbet.internal.document.DocumentPlaces;
import dev.zabbet.internal.document.PlainDocument;
import dev.zabbet.internal.mask.Masker;
import dev.zabbet.internal.mask.PersonalColumns;
import dev.zabbet.jdbc.internal.dialect.DatabaseIdentity;
import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.jdbc.internal.engine.Engines;
import dev.zabbet.jdbc.internal.guard.LabelTable;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.seed.SeedRow;
import dev.zabbet.seed.SeedValue;
import dev.zabbet.seed.SourceLocation;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;

/**
 * Takes an extract: finds its rows by {@link Closure}, looks at a sample of them to decide what is masked, and gives them to a
 * target, table by table. Of a million rows only the keys are held.
 */
public final class Extraction {
    private static final int AT_ONCE = 256;
    private static final int SAMPLE = 2_000;

    private final Snapshot snapshot;
    private final Schema schema;
    private final Masking masking;
    private final ExtractTarget target;
    private final Closure closure;
    private final HeldRows held;
    private final DocumentParts documents;
    private final List<TableKeys> tables = new ArrayList<>();
    private final Set<Table> labelled = new HashSet<>();

    private Extraction(Snapshot snapshot, Schema schema, Extract extract, Masking masking, ExtractTarget target) {
        this.snapshot = snapshot;
        this.schema = schema;
        this.masking = masking;
        this.target = target;
        this.closure = new Closure(snapshot, schema, extract);
        this.held = closure.held();
        this.documents = closure.documents();
    }

    /** Takes an extract; the target is closed in any case. */
    public static ExtractSummary take(DataSource from, Extract extract, Masking masking, ExtractTarget target) {
        try (target;
                Connection connection = from.getConnection()) {
            Dialect dialect = Engines.of(connection);
            DatabaseIdentity place = dialect.place(connection);
            requireMeant(masking, place);
            Schema schema = dialect.readSchema(connection);
            masking.named().forEach(pattern -> Scope.requireColumn(schema, pattern));
            try (Snapshot snapshot =
                    new Snapshot(connection, dialect, (int) extract.timeout().toSeconds())) {
                return new Extraction(snapshot, schema, extract, masking, target).take(place);
            }
        } catch (SQLException e) {
            throw new ZabbetException("The extract cannot be taken, and nothing was written: " + e.getMessage(), e);
        }
    }

    private static void requireMeant(Masking masking, DatabaseIdentity place) {
        if (masking.isOff() && !masking.unmasked().equals(place.lastPart().replaceFirst("^mem:", ""))) {
            throw new ZabbetException(
                    "Values are written unmasked only where the database's own name is typed: this is "
                            + place.describe() + ", and '" + masking.unmasked() + "' was given.");
        }
    }

    private ExtractSummary take(DatabaseIdentity place) throws SQLException {
        closure.find();
        for (Table table : schema.storingOrder().tables()) {
            TableKeys keys = closure.of(table);
            if (keys.size() > 0) {
                tables.add(keys);
            }
        }
        for (TableKeys keys : tables) {
            for (Reference reference : keys.references()) {
                labelled.add(schema.require(reference.target()));
            }
            documents.refs(keys.table()).forEach(ref -> labelled.add(ref.target()));
        }
        PersonalColumns personal = new PersonalColumns(schema, masking);
        for (TableKeys keys : tables) {
            sample(keys, personal);
        }
        personal.decide();
        Masker masker = new Masker(personal, masking);
        RowLabels labels = new RowLabels(masker, target.wantsLabels() ? storedLabels() : Map.of(), tables, documents);
        if (target.wantsLabels()) {
            for (TableKeys keys : tables) {
                name(keys, labels);
            }
        }
        if (target instanceof SqlTarget sql) {
            sql.writesFor(snapshot.dialect(), snapshot.connection());
        }
        target.begin(schema, tables.stream().map(TableKeys::table).toList());
        Map<String, Integer> counts = new LinkedHashMap<>();
        Map<String, Map<String, Integer>> reasons = new LinkedHashMap<>();
        for (TableKeys keys : tables) {
            write(keys, masker, labels);
            counts.put(keys.table().name(), keys.size());
            reasons.put(keys.table().name(), keys.reasons());
        }
        masker.requireNothingInCommon();
        target.end();
        return new ExtractSummary(place.describe(), counts, reasons, masker.report(), closure.notes());
    }

    /** Looks at all rows that are held; of a table that has too many, at some that lie evenly. */
    private void sample(TableKeys keys, PersonalColumns personal) throws SQLException {
        keys.keyless().forEach(row -> personal.sample(keys.table(), keys.written(), row));
        List<Object> all = keys.inOrder();
        int size = held.of(keys) != null ? all.size() : Math.min(SAMPLE, all.size());
        List<Object> some = new ArrayList<>();
        for (int i = 0; i < size; i++) {
            some.add(all.get((int) ((long) i * all.size() / size)));
        }
        for (int from = 0; from < some.size(); from += AT_ONCE) {
            List<Object> part = some.subList(from, Math.min(some.size(), from + AT_ONCE));
            Map<Object, Row> rows = rows(keys, part);
            for (Object key : part) {
                personal.sample(keys.table(), keys.written(), Objects.requireNonNull(rows.get(key)));
            }
        }
    }

    /** Returns at least these rows, with the columns that are written, and those that lead to others. */
    private Map<Object, Row> rows(TableKeys keys, List<Object> some) throws SQLException {
        Map<Object, Row> known = held.of(keys);
        if (known != null) {
            return known;
        }
        Map<Object, Row> rows = new HashMap<>();
        List<String> names = keys.key().stream().map(Column::name).toList();
        snapshot.read(
                keys.table(),
                HeldRows.whole(keys),
                keys.isOneOf(names, some),
                List.of(),
                Snapshot.End.ALL,
                row -> rows.put(keys.keyOf(row), documents.without(keys.table(), row)));
        return rows;
    }

    /** The labels that rows were loaded under are there in a database that is dedicated to tests. */
    private Map<Table, Map<Object, String>> storedLabels() throws SQLException {
        Map<Table, Map<Object, String>> stored = new HashMap<>();
        LabelTable kept = new LabelTable(snapshot.dialect());
        for (Map.Entry<LabelTable.Name, Row> one :
                kept.all(snapshot.connection(), schema).entrySet()) {
            Table table = schema.require(one.getKey().table());
            TableKeys keys = closure.of(table);
            if (keys.size() > 0 && keys.isKey(table.keyColumns())) {
                stored.computeIfAbsent(table, t -> new HashMap<>())
                        .put(keys.keyOf(one.getValue()), one.getKey().label());
            }
        }
        return stored;
    }

    private void name(TableKeys keys, RowLabels labels) throws SQLException {
        List<Column> by = labels.columns(keys);
        if (!labelled.contains(keys.table()) || by.isEmpty()) {
            return;
        }
        List<Object> all = keys.inOrder();
        for (int from = 0; from < all.size(); from += AT_ONCE) {
            List<Object> some = all.subList(from, Math.min(all.size(), from + AT_ONCE));
            Map<Object, Row> rows = rows(keys, some);
            for (Object key : some) {
                Row row = Objects.requireNonNull(rows.get(key));
                labels.name(keys, key, row, by, reference -> {
                    TableKeys above = closure.of(schema.require(reference.target()));
                    Object found = found(above, reference, row);
                    return found == null || above == keys ? Optional.empty() : Optional.of(labels.of(above, found));
                });
            }
        }
    }

    private static @Nullable Object found(TableKeys target, Reference reference, Row row) {
        List<@Nullable Object> values = new ArrayList<>();
        for (String column : reference.columns()) {
            Object value = row.get(column);
            if (value == null) {
                return null;
            }
            values.add(value);
        }
        return target.find(reference.targetColumns(), values);
    }

    private void write(TableKeys keys, Masker masker, RowLabels labels) throws SQLException {
        boolean named = target.wantsLabels() && labelled.contains(keys.table());
        int nameless = 0;
        for (Row row : keys.keyless()) {
            Optional<String> label =
                    named ? Optional.of(keys.table().name() + "-without-key-" + ++nameless) : Optional.empty();
            give(keys, row, label, masker, labels);
        }
        List<Object> all = parentsFirst(keys, keys.inOrder());
        for (int from = 0; from < all.size(); from += AT_ONCE) {
            List<Object> some = all.subList(from, Math.min(all.size(), from + AT_ONCE));
            Map<Object, Row> rows = rows(keys, some);
            for (Object key : some) {
                Optional<String> label = named ? Optional.of(labels.of(keys, key)) : Optional.empty();
                give(keys, Objects.requireNonNull(rows.get(key)), label, masker, labels);
            }
        }
    }

    /** Where a row has to refer to another of its table, that one comes first; circles are left as they are. */
    private List<Object> parentsFirst(TableKeys keys, List<Object> all) throws SQLException {
        List<Reference> own = keys.references().stream()
                .filter(r -> r.target().equals(keys.table().name()))
                .filter(r -> r.columns().stream()
                        .anyMatch(c -> !keys.table().requireColumn(c).nullable()))
                .toList();
        if (own.isEmpty()) {
            return all;
        }
        Map<Object, List<Object>> parents = new HashMap<>();
        for (int from = 0; from < all.size(); from += AT_ONCE) {
            List<Object> some = all.subList(from, Math.min(all.size(), from + AT_ONCE));
            Map<Object, Row> rows = rows(keys, some);
            for (Object key : some) {
                Row row = Objects.requireNonNull(rows.get(key));
                List<Object> above = new ArrayList<>();
                own.forEach(reference ->
                        Optional.ofNullable(found(keys, reference, row)).ifPresent(above::add));
                parents.put(key, above);
            }
        }
        Set<Object> ordered = new LinkedHashSet<>();
        for (Object key : all) {
            Deque<Object> open = new ArrayDeque<>(List.of(key));
            Set<Object> begun = new HashSet<>();
            while (!open.isEmpty()) {
                Object next = open.peek();
                List<Object> above = begun.add(next)
                        ? parents.getOrDefault(next, List.of()).stream()
                                .filter(parent -> !ordered.contains(parent) && !begun.contains(parent))
                                .toList()
                        : List.of();
                above.forEach(open::push);
                if (above.isEmpty()) {
                    ordered.add(open.pop());
                }
            }
        }
        return List.copyOf(ordered);
    }

    private void give(TableKeys keys, Row stored, Optional<String> label, Masker masker, RowLabels labels) {
        Map<String, @Nullable Object> plain = new LinkedHashMap<>();
        keys.written().forEach(column -> plain.put(column.name(), stored.get(column.name())));
        Row masked = masker.masked(keys.table(), Row.of(plain));
        List<DocumentParts.Key> inside = documents.keys(keys.table(), Row.of(plain));
        for (DocumentParts.Key key : inside) { // whatever its place looks like, it is the key that the other row has
            masked = at(masked, key, masker.masked(key.ref().target(), key.ref().key(), key.value()));
        }
        Optional<SeedRow> seed = target.wantsLabels()
                ? Optional.of(new SeedRow(
                        keys.table().name(),
                        label,
                        withLabels(seed(keys, stored, masked, labels), inside, labels),
                        1,
                        SourceLocation.NONE,
                        Map.of()))
                : Optional.empty();
        target.row(new ExtractedRow(keys.table(), masked, seed));
    }

    private static Row at(Row row, DocumentParts.Key key, @Nullable Object value) {
        String column = key.at().column().name();
        Object document = PlainDocument.read(row.get(column));
        return value == null || !key.at().path().isIn(document)
                ? row
                : row.with(
                        column,
                        PlainDocument.write(
                                DocumentPlaces.with(document, key.at().path(), PlainDocument.of(value))));
    }

    /** Labels stand in the place of keys that documents hold: each at its place beside the document, which has null there. */
    private Row withLabels(Row seed, List<DocumentParts.Key> inside, RowLabels labels) {
        Row all = seed;
        for (DocumentParts.Key key : inside) {
            TableKeys above = closure.of(key.ref().target());
            Object found = key.value() == null ? null : above.find(above.table().keyColumns(), List.of(key.value()));
            String column = key.at().column().name();
            if (found != null && all.has(column)) {
                Object document = PlainDocument.read(all.get(column));
                Object rest = DocumentPlaces.with(document, key.at().path(), null);
                all = all.with(column, PlainDocument.write(rest))
                        .with(key.at().name(), new SeedValue.RowRef(labels.of(above, found)));
            }
        }
        return all;
    }

    /** Labels stand in the place of keys, and keys that the database gives are left to it. */
    private Row seed(TableKeys keys, Row stored, Row masked, RowLabels labels) {
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        for (Column column : keys.written()) {
            Object value = masked.get(column.name());
            for (Reference reference : keys.references(column.name())) {
                TableKeys above = closure.of(schema.require(reference.target()));
                Object key = found(above, reference, stored);
                if (key != null) {
                    value = new SeedValue.RowRef(labels.of(above, key));
                    break;
                }
            }
            boolean given = column.isNumbered() && !(value instanceof SeedValue);
            if (!given && !keys.isCutOff(column.name())) {
                values.put(column.name(), value);
            }
        }
        return Row.of(values);
    }
}
