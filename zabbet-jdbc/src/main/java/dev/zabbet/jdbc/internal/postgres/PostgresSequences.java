package dev.zabbet.jdbc.internal.postgres;

import dev.zabbet.jdbc.internal.dialect.KeyNumbers;
import dev.zabbet.jdbc.internal.dialect.SchemaDraft;
import dev.zabbet.jdbc.internal.dialect.Sequences;
import dev.zabbet.jdbc.internal.dialect.SharedTransaction;
import dev.zabbet.jdbc.internal.dialect.Transactions;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.atomic.AtomicLong;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** Sequences in PostgreSQL, those of identity columns among them, which have names too. */
final class PostgresSequences implements Sequences {
    private static final int LATELY = 4;
    private static final int AT_ONCE = 500; // a row has 1664 columns at most

    private final PostgresDialect dialect;
    private final Map<String, Long> steps = new HashMap<>();
    private final Map<String, Known> known = new HashMap<>();
    private final Map<String, Long> first = new HashMap<>(); // what those give that had given none when they were asked
    private final List<TakenNumber> taken = new ArrayList<>(); // in one transaction
    private final Map<String, Map<String, Long>> lately =
            new LinkedHashMap<>(); // by what was told: a rewind makes it the same
    private Collection<String> toldOf = List.of();

    /** Numbers that a stage in one transaction has taken from a sequence. */
    record TakenNumber(String name, long first) {}

    /** A sequence: by its number in what the journal tells. */
    private record Known(long oid, long step) {}

    PostgresSequences(PostgresDialect dialect) {
        this.dialect = dialect;
    }

    @Override
    public List<String> names(Connection connection, Schema schema) throws SQLException {
        known.clear(); // they may be others by the same names
        first.clear();
        lately.clear();
        steps.clear();
        return SchemaDraft.texts(
                connection,
                "SELECT quote_ident(n.nspname) || '.' || quote_ident(c.relname) FROM pg_class c JOIN pg_namespace n"
                        + " ON n.oid = c.relnamespace WHERE c.relkind = 'S' AND c.relpersistence <> 't'"
                        + " AND n.nspname NOT LIKE 'pg\\_%' AND n.nspname NOT IN ('information_schema', 'zabbet')"
                        + " AND has_table_privilege(c.oid, 'SELECT') AND has_table_privilege(c.oid, 'UPDATE')"
                        + " AND NOT EXISTS (SELECT 1 FROM pg_depend d WHERE d.classid = 'pg_class'::regclass"
                        + " AND d.objid = c.oid AND d.deptype IN ('i', 'e')) ORDER BY 1");
    }

    @Override
    public Map<String, Long> next(Connection connection, Collection<String> names) throws SQLException {
        List<String> all = List.copyOf(names);
        Map<String, Long> next = new HashMap<>();
        for (int from = 0; from < all.size(); from += AT_ONCE) {
            List<String> some = all.subList(from, Math.min(all.size(), from + AT_ONCE));
            dialect.readOften(connection, states(some), rows -> {
                String[] steps = rows.getString(some.size() + 1).split(",");
                for (int i = 0; i < some.size(); i++) {
                    String[] state = rows.getString(i + 1).split("/");
                    boolean called = state[1].equals("true");
                    long step = called ? Long.parseLong(steps[i]) : 0;
                    if (!called) {
                        first.put(some.get(i), Long.parseLong(state[0]));
                    }
                    next.put(some.get(i), Long.parseLong(state[0]) + step);
                }
            });
        }
        return next;
    }

    /**
     * Returns the numbers that sequences will give next, from what {@link PostgresJournal} tells of all that have given one.
     * Those that have not, and are not known by now, are asked.
     *
     * @param told the last number of each, as {@code number of the sequence:last}, with commas between
     */
    @Override
    public Map<String, Long> next(Connection connection, Collection<String> names, @Nullable String told)
            throws SQLException {
        if (told == null) {
            return next(connection, names);
        }
        if (names != toldOf) {
            lately.clear();
            toldOf = names;
        }
        Map<String, Long> same = lately.get(told);
        if (same == null) {
            same = read(connection, names, told);
            lately.put(told, same);
            if (lately.size() > LATELY) {
                lately.remove(lately.keySet().iterator().next());
            }
        }
        return same;
    }

    private Map<String, Long> read(Connection connection, Collection<String> names, String told) throws SQLException {
        Map<Long, Long> last = new HashMap<>();
        for (String one : told.isEmpty() ? new String[0] : told.split(",")) {
            int colon = one.indexOf(':');
            last.put(Long.valueOf(one.substring(0, colon)), Long.valueOf(one.substring(colon + 1)));
        }
        if (!known.keySet().containsAll(names)) {
            learn(connection, names);
        }
        Map<String, Long> next = new HashMap<>();
        List<String> unknown = new ArrayList<>();
        for (String name : names) {
            Known sequence = known.get(name);
            Long number = sequence == null ? null : last.get(sequence.oid);
            if (sequence != null && number != null) {
                next.put(name, number + sequence.step);
            } else if (sequence != null && first.containsKey(name)) {
                next.put(name, first.getOrDefault(name, 1L));
            } else {
                unknown.add(name);
            }
        }
        if (!unknown.isEmpty()) {
            next.putAll(next(connection, unknown));
        }
        return next;
    }

    private void learn(Connection connection, Collection<String> names) throws SQLException {
        SchemaDraft.each(
                connection,
                "SELECT s.name, p.seqrelid, p.seqincrement FROM unnest(ARRAY[" + quoted(names)
                        + "]::text[]) AS s (name)" + " JOIN pg_sequence p ON p.seqrelid = to_regclass(s.name)",
                rows -> known.put(rows.getString(1), new Known(rows.getLong(2), rows.getLong(3))));
    }

    private static String quoted(Collection<String> names) {
        return names.stream().map(name -> "'" + name.replace("'", "''") + "'").collect(Collectors.joining(", "));
    }

    /** In one row, and the steps together: a query for each by UNION is planned again after each rewind, for 0.4 ms each. */
    private static String states(List<String> names) {
        String each = names.stream()
                .map(name -> "(SELECT last_value || '/' || is_called FROM " + name + ")")
                .collect(Collectors.joining(", "));
        return "SELECT " + each + ", (SELECT string_agg(p.seqincrement::text, ',' ORDER BY s.at) FROM unnest(ARRAY["
                + quoted(names)
                + "]::regclass[]) WITH ORDINALITY AS s (oid, at) JOIN pg_sequence p ON p.seqrelid = s.oid)";
    }

    @Override
    public void restart(Connection connection, String name, long next) throws SQLException {
        restart(connection, Map.of(name, next));
    }

    /** A sequence that had given numbers stands on the last again, so that its own columns read as they did. */
    @Override
    public void restart(Connection connection, Map<String, Long> next) throws SQLException {
        List<String> each = new ArrayList<>();
        next.forEach((name, number) -> {
            Known sequence = known.get(name);
            boolean none = sequence == null || number.equals(first.get(name));
            each.add("setval('" + name.replace("'", "''") + "', "
                    + (none || sequence == null ? number + ", false)" : number - sequence.step + ", true)"));
        });
        try (Statement statement = connection.createStatement()) {
            statement.execute("SELECT " + String.join(", ", each));
        }
    }

    private void restartWith(Connection connection, String name, long next) throws SQLException {
        first.put(name, next);
        lately.clear();
        restart(connection, Map.of(name, next));
    }

    /** A session that takes several at once (CACHE) keeps them as an application keeps a block. */
    @Override
    public Set<String> inBlocks(Connection connection, Collection<String> names) throws SQLException {
        if (names.isEmpty()) {
            return Set.of();
        }
        return Set.copyOf(SchemaDraft.texts(
                connection,
                "SELECT s.name FROM unnest(ARRAY[" + quoted(names) + "]::text[]) AS s (name) JOIN pg_sequence p"
                        + " ON p.seqrelid = to_regclass(s.name) WHERE p.seqincrement <> 1 OR p.seqcache <> 1"));
    }

    @Override
    public long step(Connection connection, String name) throws SQLException {
        Long known = steps.get(name);
        if (known == null) {
            try (PreparedStatement statement =
                    connection.prepareStatement("SELECT seqincrement FROM pg_sequence WHERE seqrelid = ?::regclass")) {
                statement.setString(1, name);
                try (ResultSet row = statement.executeQuery()) {
                    known = row.next() ? row.getLong(1) : 1;
                }
            }
            steps.put(name, known);
        }
        return known;
    }

    /** Numbers are taken from the sequence itself, so that whoever else takes some gets others. */
    @Override
    public long reserve(Connection connection, String name, long least, int count) throws SQLException {
        while (true) {
            long first = count > KeyNumbers.MANY || step(connection, name) != 1
                    ? reserveMany(connection, name, count)
                    : reserveFew(connection, name, count);
            if (first >= least) {
                return first;
            }
            restartWith(
                    connection, name, least); // rows with explicit keys lie beyond the sequence, which they do not move
        }
    }

    /** Takes numbers for several tables in one statement; those that others took numbers between, or rows lie beyond, are left out. */
    Map<Table, Long> reserve(Connection connection, Map<Table, Integer> counts) throws SQLException {
        List<Table> tables = new ArrayList<>();
        List<String> names =
                counts.keySet().stream().map(PostgresSequences::name).toList();
        if (!known.keySet().containsAll(names)) {
            learn(connection, names);
        }
        for (Map.Entry<Table, Integer> count : counts.entrySet()) {
            String name = name(count.getKey());
            Known sequence = known.get(name);
            if (count.getValue() <= KeyNumbers.MANY && sequence != null && sequence.step == 1) {
                tables.add(count.getKey());
            }
        }
        Map<Table, Long> first = new HashMap<>();
        for (int from = 0; from < tables.size(); from += AT_ONCE / 2) {
            List<Table> some = tables.subList(from, Math.min(tables.size(), from + AT_ONCE / 2));
            // With the numbers of rows in its text, so that it is planned once.
            String sql = some.stream()
                    .map(table -> reserving(table, counts.getOrDefault(table, 1)))
                    .collect(Collectors.joining(", ", "SELECT ", ""));
            dialect.readOften(SharedTransaction.direct(connection), sql, row -> {
                for (int i = 0; i < some.size(); i++) {
                    String[] numbers = row.getString(2 * i + 2).split(",");
                    long least = Long.parseLong(numbers[0]);
                    long most = Long.parseLong(numbers[numbers.length - 1]);
                    if (most - least == counts.getOrDefault(some.get(i), 1) - 1 && least > row.getLong(2 * i + 1)) {
                        first.put(some.get(i), least);
                        if (SharedTransaction.has(connection)) {
                            taken.add(new TakenNumber(name(some.get(i)), least));
                        }
                    }
                }
            });
        }
        return first;
    }

    /** Selects the greatest key that is stored, and the first and the last number taken. */
    private String reserving(Table table, int count) {
        String key = dialect.quote(table.numberedColumn().orElseThrow().sqlName());
        String next = "nextval('" + name(table).replace("'", "''") + "')";
        return "(SELECT MAX(" + key + ") FROM " + dialect.name(table) + "), "
                + (count == 1
                        ? next + "::text"
                        : "(SELECT min(n) || ',' || max(n) FROM (SELECT " + next + " AS n FROM generate_series(1, "
                                + count + ")) numbers)");
    }

    List<TakenNumber> taken() {
        return taken;
    }

    /** Lets sequences give again what was taken from them since. */
    void giveBack(Connection connection, int from) throws SQLException {
        List<TakenNumber> later = taken.subList(from, taken.size());
        Map<String, Long> first = new LinkedHashMap<>();
        later.forEach(one -> first.putIfAbsent(one.name(), one.first()));
        later.clear();
        if (!first.isEmpty()) {
            try (Statement statement = connection.createStatement()) {
                statement.execute(first.entrySet().stream()
                        .map(one -> "setval('" + one.getKey().replace("'", "''") + "', " + one.getValue() + ", false)")
                        .collect(Collectors.joining(", ", "SELECT ", "")));
            }
        }
    }

    private static String name(Table table) {
        return table.numberedColumn().flatMap(Column::sequence).orElseThrow();
    }

    private long reserveFew(Connection connection, String name, int count) throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement(
                "SELECT min(n), max(n) FROM (SELECT nextval(?::regclass) AS n FROM generate_series(1, ?)) numbers")) {
            statement.setString(1, name);
            statement.setInt(2, count);
            try (ResultSet row = statement.executeQuery()) {
                row.next();
                // If not, somebody took numbers between ours.
                return row.getLong(2) - row.getLong(1) == count - 1L
                        ? row.getLong(1)
                        : reserveMany(connection, name, count);
            }
        }
    }

    /** ALTER SEQUENCE keeps others from taking numbers until the transaction ends. */
    private long reserveMany(Connection connection, String name, int count) throws SQLException {
        long step = step(connection, name);
        AtomicLong first = new AtomicLong();
        Transactions.atomically(connection, () -> {
            try (Statement statement = connection.createStatement()) {
                statement.execute("ALTER SEQUENCE " + name + " NO CYCLE");
            }
            String next = "SELECT nextval('" + name.replace("'", "''") + "')";
            first.set(SchemaDraft.first(connection, next, row -> row.getLong(1)).orElseThrow());
            restartWith(connection, name, Sequences.beyond(first.get(), count, step));
        });
        return first.get();
    }
}
