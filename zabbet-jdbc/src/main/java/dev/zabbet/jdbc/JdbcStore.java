package dev.zabbet.jdbc;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Change;
import dev.zabbet.store.Condition;
import dev.zabbet.store.Load;
import dev.zabbet.store.RewindPoint;
import dev.zabbet.store.Store;
import dev.zabbet.store.Watch;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Consumer;
import javax.sql.DataSource;

/** Rows in a database. Each call takes a connection of its own and commits. */
final class JdbcStore implements Store {
    private final DataSource dataSource;
    private final Dialect dialect;
    private final Schema schema;
    private final String description;
    private final boolean own;
    private final Map<Table, Long> ordinals = new HashMap<>();

    private record Point(Comparison.Contents contents, Map<Table, Long> counters, Map<Table, Long> ordinals)
            implements RewindPoint {}

    private JdbcStore(DataSource dataSource, Dialect dialect, Schema schema, String description, boolean own) {
        this.dataSource = dataSource;
        this.dialect = dialect;
        this.schema = schema;
        this.description = description;
        this.own = own;
    }

    static JdbcStore open(DataSource dataSource, boolean own) {
        try (Connection connection = dataSource.getConnection()) {
            Dialect dialect = Dialect.of(connection);
            String url = JdbcUrl.shown(connection.getMetaData().getURL());
            if (!dialect.isInThisProcess(connection)) {
                throw new ZabbetException("The database " + url + " is not in this process's memory, so it may hold"
                        + " somebody's data, and nothing was written to it. Open the stage on jdbc:h2:mem:…, or with"
                        + " Jdbc.embedded(script).");
            }
            return new JdbcStore(
                    dataSource,
                    dialect,
                    dialect.readSchema(connection),
                    dialect.product() + " (" + url.replaceAll(";.*", "") + ")",
                    own);
        } catch (SQLException e) {
            throw new ZabbetException("The database cannot be opened: " + e.getMessage(), e);
        }
    }

    @Override
    public Schema schema() {
        return schema;
    }

    @Override
    public String description() {
        return description;
    }

    @Override
    public Optional<DataSource> dataSource() {
        return Optional.of(dataSource);
    }

    @Override
    public long reserve(Table table, int count) {
        return call("The keys of " + table.name() + " cannot be reserved", connection -> {
            Optional<Column> identity =
                    table.columns().stream().filter(Column::isIdentity).findFirst();
            TableSql sql = new TableSql(dialect, table);
            if (identity.isEmpty()) {
                long last = Math.max(ordinals.getOrDefault(table, 0L), sql.count(connection));
                ordinals.put(table, last + count);
                return last + 1;
            }
            // Rows with explicit keys may lie beyond the counter, since H2 does not move it for them.
            long next = Math.max(
                    dialect.counters(connection, List.of(table)).getOrDefault(table, 1L),
                    sql.max(connection, identity.get()) + 1);
            dialect.setCounter(connection, table, identity.get(), next + count);
            return next;
        });
    }

    @Override
    public void store(Load load) {
        run("The rows cannot be stored", connection -> new Storing(dialect, connection).store(load));
    }

    @Override
    public void read(Table table, Condition where, Consumer<Row> reader) {
        run("Table " + table.name() + " cannot be read", connection -> new TableSql(dialect, table)
                .read(connection, where, reader));
    }

    @Override
    public Watch watch() {
        Comparison comparison = new Comparison(dialect, schema);
        Comparison.Contents before = contents(comparison);
        return new Watch() {
            @Override
            public List<Change> changes() {
                return comparison.between(before, contents(comparison));
            }

            @Override
            public void close() {}
        };
    }

    private Comparison.Contents contents(Comparison comparison) {
        return call("The database cannot be read", comparison::read);
    }

    @Override
    public RewindPoint mark() {
        Comparison.Contents contents = contents(new Comparison(dialect, schema));
        Map<Table, Long> counters =
                call("The counters cannot be read", connection -> dialect.counters(connection, schema.tables()));
        return new Point(contents, counters, Map.copyOf(ordinals));
    }

    @Override
    public void rewind(RewindPoint point) {
        Point to = (Point) point;
        Comparison comparison = new Comparison(dialect, schema);
        List<Change> changes = comparison.between(to.contents(), contents(comparison));
        run("The database cannot be rewound", connection -> {
            if (!changes.isEmpty()) {
                undo(connection, changes);
            }
            Map<Table, Long> now = dialect.counters(connection, schema.tables());
            for (Map.Entry<Table, Long> counter : to.counters().entrySet()) {
                Table table = counter.getKey();
                if (!counter.getValue().equals(now.get(table))) {
                    Column identity = table.columns().stream()
                            .filter(Column::isIdentity)
                            .findFirst()
                            .orElseThrow();
                    dialect.setCounter(connection, table, identity, counter.getValue());
                }
            }
        });
        ordinals.clear();
        ordinals.putAll(to.ordinals());
    }

    /** Undoes by net effect: every touched row goes, the old images come back; order does not matter without checks. */
    private void undo(Connection connection, List<Change> changes) throws SQLException {
        dialect.withoutReferences(connection, () -> {
            connection.setAutoCommit(false);
            try {
                for (Change change : changes) {
                    if (!(change instanceof Change.Removed)) {
                        new TableSql(dialect, change.table()).delete(connection, change.row());
                    }
                }
                for (Change change : changes) {
                    if (change instanceof Change.Changed changed) {
                        new TableSql(dialect, change.table()).restore(connection, changed.before());
                    } else if (change instanceof Change.Removed removed) {
                        new TableSql(dialect, change.table()).restore(connection, removed.row());
                    }
                }
                connection.commit();
            } catch (SQLException e) {
                connection.rollback();
                throw e;
            } finally {
                connection.setAutoCommit(true);
            }
        });
    }

    @Override
    public void close() {
        if (own) {
            run("The database cannot be closed", dialect::end);
        }
    }

    @FunctionalInterface
    private interface Call<V> {
        V on(Connection connection) throws SQLException;
    }

    @FunctionalInterface
    private interface Run {
        void on(Connection connection) throws SQLException;
    }

    private <V> V call(String trouble, Call<V> call) {
        try (Connection connection = dataSource.getConnection()) {
            return call.on(connection);
        } catch (SQLException e) {
            throw new ZabbetException(trouble + ": " + e.getMessage(), e);
        }
    }

    private void run(String trouble, Run run) {
        call(trouble, connection -> {
            run.on(connection);
            return true;
        });
    }
}
