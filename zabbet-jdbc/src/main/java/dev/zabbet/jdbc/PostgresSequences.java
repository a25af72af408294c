package dev.zabbet.jdbc;

import dev.zabbet.schema.Schema;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;

/** Sequences in PostgreSQL, those of identity columns among them, which have names too. */
final class PostgresSequences implements Sequences {
    private static final int AT_ONCE = 500; // a row has 1664 columns at most

    private final PostgresDialect dialect;
    private final Map<String, Long> steps = new HashMap<>();

    PostgresSequences(PostgresDialect dialect) {
        this.dialect = dialect;
    }

    @Override
    public List<String> names(Connection connection, Schema schema) throws SQLException {
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
                    long step = state[1].equals("true") ? Long.parseLong(steps[i]) : 0;
                    next.put(some.get(i), Long.parseLong(state[0]) + step);
                }
            });
        }
        return next;
    }

    /** In one row, and the steps together: a query for each by UNION is planned anew after each rewind, for 0.4 ms each. */
    private static String states(List<String> names) {
        String each = names.stream()
                .map(name -> "(SELECT last_value || '/' || is_called FROM " + name + ")")
                .collect(Collectors.joining(", "));
        String quoted =
                names.stream().map(name -> "'" + name.replace("'", "''") + "'").collect(Collectors.joining(", "));
        return "SELECT " + each + ", (SELECT string_agg(p.seqincrement::text, ',' ORDER BY s.at) FROM unnest(ARRAY["
                + quoted + "]::regclass[]) WITH ORDINALITY AS s (oid, at) JOIN pg_sequence p ON p.seqrelid = s.oid)";
    }

    @Override
    public void restart(Connection connection, String name, long next) throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement("SELECT setval(?::regclass, ?, false)")) {
            statement.setString(1, name);
            statement.setLong(2, next);
            statement.execute();
        }
    }

    /** A session that takes several at once (CACHE) keeps them as an application keeps a block. */
    @Override
    public Set<String> inBlocks(Connection connection, Collection<String> names) throws SQLException {
        if (names.isEmpty()) {
            return Set.of();
        }
        String quoted =
                names.stream().map(name -> "'" + name.replace("'", "''") + "'").collect(Collectors.joining(", "));
        return Set.copyOf(SchemaDraft.texts(
                connection,
                "SELECT s.name FROM unnest(ARRAY[" + quoted + "]::text[]) AS s (name) JOIN pg_sequence p"
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
            long first = count > Dialect.MANY || step(connection, name) != 1
                    ? reserveMany(connection, name, count)
                    : reserveFew(connection, name, count);
            if (first >= least) {
                return first;
            }
            restart(connection, name, least); // rows with explicit keys lie beyond the sequence, which they do not move
        }
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
        boolean autoCommit = connection.getAutoCommit();
        connection.setAutoCommit(false);
        try (Statement statement = connection.createStatement()) {
            statement.execute("ALTER SEQUENCE " + name + " NO CYCLE");
            long first;
            try (ResultSet row = statement.executeQuery("SELECT nextval('" + name.replace("'", "''") + "')")) {
                row.next();
                first = row.getLong(1);
            }
            restart(connection, name, Sequences.beyond(first, count, step));
            connection.commit();
            return first;
        } catch (SQLException e) {
            connection.rollback();
            throw e;
        } finally {
            connection.setAutoCommit(autoCommit);
        }
    }
}
