package dev.zabbet.jdbc.internal.mariadb;

import dev.zabbet.jdbc.internal.dialect.SchemaDraft;
import dev.zabbet.jdbc.internal.dialect.Sequences;
import dev.zabbet.schema.Schema;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.jspecify.annotations.Nullable;

/**
 * Sequences in MariaDB. The server takes numbers ahead and tells only where it will take the next ones: to know which
 * number comes next one is taken, and the sequence set back to it. From then on the two are the same until somebody takes
 * a number.
 */
final class MariaDbSequences implements Sequences {
    private final MariaDbDialect dialect;
    private final Map<String, Long> known = new HashMap<>();
    private final Set<String> unmovable = new HashSet<>();

    MariaDbSequences(MariaDbDialect dialect) {
        this.dialect = dialect;
    }

    private record State(long afterCache, long cached, long step) {}

    @Override
    public List<String> names(Connection connection, Schema schema) throws SQLException {
        List<String> names = new ArrayList<>();
        MariaDbDatabases databases = MariaDbDatabases.of(connection, schema);
        databases.each(
                connection,
                "SELECT TABLE_SCHEMA, TABLE_NAME FROM information_schema.TABLES WHERE TABLE_SCHEMA = DATABASE()"
                        + " AND TABLE_TYPE = 'SEQUENCE' AND TABLE_NAME NOT LIKE 'zabbet\\_%' ORDER BY TABLE_NAME",
                rows -> names.add(databases.name(rows.getString(1), rows.getString(2), dialect)));
        return names;
    }

    private Map<String, State> states(Connection connection, Collection<String> names) throws SQLException {
        Map<String, State> states = new HashMap<>();
        List<String> all = List.copyOf(names);
        if (!all.isEmpty()) {
            SchemaDraft.each(
                    connection,
                    IntStream.range(0, all.size())
                            .mapToObj(i ->
                                    "SELECT " + i + ", next_not_cached_value, cache_size, increment FROM " + all.get(i))
                            .collect(Collectors.joining(" UNION ALL ")),
                    rows -> states.put(
                            all.get(rows.getInt(1)), new State(rows.getLong(2), rows.getLong(3), rows.getLong(4))));
        }
        return states;
    }

    @Override
    public Map<String, Long> next(Connection connection, Collection<String> names) throws SQLException {
        Map<String, Long> next = new HashMap<>();
        for (Map.Entry<String, State> state : states(connection, names).entrySet()) {
            String name = state.getKey();
            long afterCache = state.getValue().afterCache();
            if (unmovable.contains(name)) {
                continue;
            }
            if (state.getValue().cached() != 0 && !Long.valueOf(afterCache).equals(known.get(name))) {
                long taken = take(connection, name);
                try {
                    restart(connection, name, taken);
                } catch (SQLException e) {
                    if (!dialect.isMissingRight(e)) {
                        throw e;
                    }
                    unmovable.add(name); // nor can it be set back: no further number is wasted on it
                    continue;
                }
                afterCache = taken;
            }
            next.put(name, afterCache);
        }
        return next;
    }

    /** Returns a number that has not been given, nor any above it, without touching the sequence. */
    long unused(Connection connection, String name) throws SQLException {
        State state = states(connection, List.of(name)).get(name);
        return state == null ? 1 : state.afterCache();
    }

    private static long take(Connection connection, String name) throws SQLException {
        try (Statement statement = connection.createStatement();
                ResultSet row = statement.executeQuery("SELECT NEXT VALUE FOR " + name)) {
            row.next();
            return row.getLong(1);
        }
    }

    @Override
    public Set<String> inBlocks(Connection connection, Collection<String> names) throws SQLException {
        Set<String> inBlocks = new HashSet<>();
        states(connection, names).forEach((name, state) -> {
            if (state.step() != 1) {
                inBlocks.add(name);
            }
        });
        return inBlocks;
    }

    @Override
    public long reserve(Connection connection, String name, long least, int count) throws SQLException {
        return reserveAsOthersDo(
                connection,
                name,
                least,
                count,
                numbers -> Sequences.taken(connection, "SELECT NEXT VALUE FOR " + name + " FROM seq_1_to_" + numbers));
    }

    /** Forward a sequence moves without a change of tables. */
    @Override
    public long setForward(Connection connection, String name, long least, int count) throws SQLException {
        long first = Math.max(take(connection, name), least);
        try (Statement statement = connection.createStatement()) {
            statement.execute(
                    "SELECT SETVAL(" + name + ", " + Sequences.beyond(first, count, step(connection, name)) + ", 0)");
        }
        return first;
    }

    @Override
    public void restart(Connection connection, String name, long next) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute("ALTER SEQUENCE " + name + " RESTART WITH " + next);
        }
        known.put(name, next);
    }

    /** What has not moved since it was looked at is still where it was. */
    @Override
    public void setBack(Connection connection, Map<String, Long> then, @Nullable String told) throws SQLException {
        for (Map.Entry<String, State> state : states(connection, then.keySet()).entrySet()) {
            long before = then.getOrDefault(state.getKey(), 0L);
            if (state.getValue().afterCache() != before) {
                restart(connection, state.getKey(), before);
            }
        }
    }

    @Override
    public long step(Connection connection, String name) throws SQLException {
        State state = states(connection, List.of(name)).get(name);
        return state == null ? 1 : state.step();
    }
}
