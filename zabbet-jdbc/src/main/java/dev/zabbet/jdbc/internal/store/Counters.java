package dev.zabbet.jdbc.internal.store;

import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.jdbc.internal.dialect.TableSql;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.type.Kind;
import java.lang.System.Logger;
import java.lang.System.Logger.Level;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;

/** Where the numbers of new rows come from: counters of columns, sequences, and counting where there are neither. */
@SuppressWarnings("ReferenceEquality") // a schema that was read again is another
final class Counters {
    private static final Logger LOG = System.getLogger("dev.zabbet.jdbc");

    private final Dialect dialect;
    private final Map<String, String> ofKeys;
    private final Supplier<Schema> schema;
    private final Map<Table, Long> ordinals = new HashMap<>();
    private final Set<Table> stuck = new HashSet<>();
    private @Nullable List<String> sequences;
    private List<String> named = List.of(); // those of them that are no column's own
    private Set<String> inBlocks = Set.of();
    private List<String> goingBack = List.of(); // those of them that are set back
    private List<Table> own = List.of(); // the tables whose counter is not a sequence that has a name
    private @Nullable Schema sequencesOf;

    /** Where they stood at a rewind point. */
    record State(Map<Table, Long> ofColumns, Map<String, Long> ofSequences, Map<Table, Long> ordinals) {}

    /** @param schema gives the tables as they were last read */
    Counters(Dialect dialect, Supplier<Schema> schema) {
        this(dialect, schema, Map.of());
    }

    /** @param ofKeys sequences that the application takes keys from itself, by the names of tables */
    Counters(Dialect dialect, Supplier<Schema> schema, Map<String, String> ofKeys) {
        this.ofKeys = ofKeys;
        this.dialect = dialect;
        this.schema = schema;
    }

    /** Reserves consecutive numbers for rows of several tables, at once as far as that can be, and returns the first of each. */
    Map<Table, Long> reserve(Connection connection, Map<Table, Integer> counts) throws SQLException {
        Map<Table, Integer> numbered = new LinkedHashMap<>(counts);
        numbered.keySet().removeIf(table -> table.numberedColumn().isEmpty());
        Map<Table, Long> first = dialect.reserve(connection, numbered);
        for (Map.Entry<Table, Integer> count : counts.entrySet()) {
            if (!first.containsKey(count.getKey())) {
                first.put(count.getKey(), reserve(connection, count.getKey(), count.getValue()));
            }
        }
        return first;
    }

    /** Reserves consecutive numbers for rows of a table and returns the first. */
    long reserve(Connection connection, Table table, int count) throws SQLException {
        Optional<Column> numbered = table.numberedColumn();
        if (numbered.isPresent()) {
            return dialect.reserve(connection, table, numbered.get(), count);
        }
        Optional<String> sequence = sequenceOfKey(connection, table);
        if (sequence.isPresent()) {
            long least = new TableSql(dialect, table).max(connection, key(table)) + 1;
            return dialect.sequences().reserve(connection, sequence.get(), least, count);
        }
        Long known = ordinals.get(table);
        long last = known != null ? known : new TableSql(dialect, table).count(connection);
        ordinals.put(table, last + count);
        return last + 1;
    }

    /**
     * Returns the sequence that the application takes a table's keys from itself, as its name says: that of the table, or
     * of table and key, with {@code _seq} behind it.
     */
    private Optional<String> sequenceOfKey(Connection connection, Table table) throws SQLException {
        if (table.keyColumns().size() != 1 || key(table).type().kind() != Kind.INTEGER) {
            return Optional.empty();
        }
        String said = ofKeys.get(table.name());
        Set<String> wanted = said != null
                ? Set.of(said.toLowerCase(Locale.ROOT))
                : Set.of(
                        table.sqlName().toLowerCase(Locale.ROOT) + "_seq",
                        (table.sqlName() + "_" + key(table).sqlName()).toLowerCase(Locale.ROOT) + "_seq");
        sequences(connection);
        return named.stream()
                .filter(name -> wanted.contains(name.replaceFirst("^.*[.](?=.)", "")
                        .replaceAll("[\"`]", "")
                        .toLowerCase(Locale.ROOT)))
                .findFirst();
    }

    private static Column key(Table table) {
        return table.requireColumn(table.keyColumns().get(0));
    }

    /** Returns the sequences that have names, as they were when the tables were read. */
    private List<String> sequences(Connection connection) throws SQLException {
        List<String> known = sequences;
        if (known == null || sequencesOf != schema.get()) {
            sequencesOf = schema.get();
            named = dialect.sequences().names(connection, sequencesOf);
            Set<String> all = new LinkedHashSet<>(named);
            sequencesOf.tables().forEach(table -> table.numberedColumn()
                    .flatMap(Column::sequence)
                    .ifPresent(all::add));
            inBlocks = dialect.sequences().inBlocks(connection, all);
            known = List.copyOf(all);
            goingBack = known.stream().filter(name -> !inBlocks.contains(name)).toList();
            own = withOwnCounter(sequencesOf);
            sequences = known;
        }
        return known;
    }

    /**
     * Tells where all stand.
     *
     * @param all whether any are asked, which may move one and commit; otherwise only what the stage counts itself is told
     * @param told what the journal has just told of sequences
     */
    State state(Connection connection, boolean all, @Nullable String told) throws SQLException {
        if (!all) {
            return new State(Map.of(), Map.of(), Map.copyOf(ordinals));
        }
        sequences(connection);
        return new State(
                own.isEmpty() ? Map.of() : dialect.counters(connection, own, told),
                next(connection, told),
                Map.copyOf(ordinals));
    }

    private Map<String, Long> next(Connection connection, @Nullable String told) throws SQLException {
        try {
            return dialect.sequences().next(connection, goingBack(connection), told);
        } catch (SQLException e) {
            sequences = null; // one may have been dropped
            return dialect.sequences().next(connection, goingBack(connection), told);
        }
    }

    private List<String> goingBack(Connection connection) throws SQLException {
        sequences(connection);
        return goingBack;
    }

    private static List<Table> withOwnCounter(Schema schema) {
        return schema.tables().stream()
                .filter(table -> table.numberedColumn()
                        .filter(column -> column.sequence().isEmpty())
                        .isPresent())
                .toList();
    }

    /** Returns a state as it can be written down. */
    static Map<String, String> written(State state) {
        Map<String, String> written = new LinkedHashMap<>();
        state.ofColumns().forEach((table, next) -> written.put("column of " + table.name(), String.valueOf(next)));
        state.ofSequences().forEach((name, next) -> written.put("sequence " + name, String.valueOf(next)));
        return written;
    }

    /** Returns a state that was written down, as far as its tables are still there. */
    static State read(Map<String, String> written, Schema schema) {
        Map<Table, Long> ofColumns = new HashMap<>();
        Map<String, Long> ofSequences = new HashMap<>();
        written.forEach((item, next) -> {
            if (item.startsWith("column of ")) {
                schema.table(item.substring("column of ".length()))
                        .ifPresent(table -> ofColumns.put(table, Long.valueOf(next)));
            } else if (item.startsWith("sequence ")) {
                ofSequences.put(item.substring("sequence ".length()), Long.valueOf(next));
            }
        });
        return new State(ofColumns, ofSequences, Map.of());
    }

    /** Lets rows without a counter be counted on from where they were. */
    void countFrom(State then) {
        ordinals.clear();
        ordinals.putAll(then.ordinals());
    }

    /**
     * Sets all back that have moved; where the user may not, they stay, which is told once.
     *
     * @param told what the journal has just told of sequences
     */
    void setBack(Connection connection, State then, @Nullable String told) throws SQLException {
        sequences(connection);
        Map<Table, Long> now = own.isEmpty() ? Map.of() : dialect.counters(connection, own, told);
        for (Map.Entry<Table, Long> counter : now.entrySet()) {
            Table table = counter.getKey();
            Long before = then.ofColumns().getOrDefault(table, 1L); // SQLite has none before the first row
            if (!before.equals(counter.getValue()) && !dialect.leavesCounter(table, before)) {
                setBack(connection, table, before);
            }
        }
        dialect.rewound();
        setBackSequences(connection, then.ofSequences(), told);
    }

    /** Sets counters to the numbers that they should give next. */
    void bringBack(Connection connection, Map<Table, Long> left) throws SQLException {
        for (Map.Entry<Table, Long> one : left.entrySet()) {
            setBack(connection, one.getKey(), one.getValue());
        }
    }

    /** Lets the counters of empty tables begin where they began. */
    void restart(Connection connection, List<Table> emptied) throws SQLException {
        sequences(connection);
        for (Table table : emptied) {
            Column numbered = table.numberedColumn().orElse(null);
            if (numbered != null
                    && numbered.sequence().filter(inBlocks::contains).isEmpty()
                    && new TableSql(dialect, table).isEmpty(connection)) {
                dialect.restart(connection, table, numbered);
            }
        }
        ordinals.keySet().removeAll(emptied);
    }

    private void setBack(Connection connection, Table table, long next) throws SQLException {
        try {
            dialect.setCounter(connection, table, table.numberedColumn().orElseThrow(), next);
        } catch (SQLException e) {
            if (!dialect.isMissingRight(e)) {
                throw e;
            }
            LOG.log(
                    stuck.add(table) ? Level.INFO : Level.DEBUG,
                    "The counter of {0} stays where it is, so that the next row gets a higher number than before: {1}",
                    table.name(),
                    e.getMessage());
        }
    }

    /** Sequences that were dropped stay so. */
    private void setBackSequences(Connection connection, Map<String, Long> then, @Nullable String told)
            throws SQLException {
        try {
            dialect.sequences().setBack(connection, then, told);
        } catch (SQLException e) {
            Map<String, Long> left = new HashMap<>(then);
            sequences = null;
            left.keySet().retainAll(sequences(connection));
            if (left.size() == then.size()) {
                throw e;
            }
            dialect.sequences().setBack(connection, left, told);
        }
    }
}
