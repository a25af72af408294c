package dev.zabbet.jdbc.internal.postgres;

import dev.zabbet.jdbc.internal.connect.JdbcUrl;
import dev.zabbet.jdbc.internal.dialect.DatabaseIdentity;
import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.jdbc.internal.dialect.Journal;
import dev.zabbet.jdbc.internal.dialect.SchemaDraft;
import dev.zabbet.jdbc.internal.dialect.Sequences;
import dev.zabbet.jdbc.internal.dialect.TableSql;
import dev.zabbet.jdbc.internal.dialect.Transactions;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.RowSource;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;
import org.postgresql.core.BaseConnection;
import org.postgresql.core.TransactionState;

/** PostgreSQL. */
public final class PostgresDialect extends PostgresSql {
    private static final long LEASE = 0x7A6162626574L; // "zabbet" in ASCII
    private static final Pattern CONSTRAINT = Pattern.compile("constraint \"([^\"]+)\"");
    static final String PERMISSION_DENIED = "42501";

    private final PostgresSequences sequences = new PostgresSequences(this);
    private String settings = "SELECT 1";
    private @Nullable Boolean defers; // some constraints, until the end of a transaction
    private int isolation = Connection.TRANSACTION_READ_COMMITTED;

    /** Columns of this type hold large objects, unless they are a catalogue's. */
    @Override
    public boolean switchesRoles() {
        return true;
    }

    @Override
    public String product() {
        return "PostgreSQL";
    }

    @Override
    public DatabaseIdentity place(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement();
                ResultSet row = statement.executeQuery(
                        "SELECT current_database(), coalesce(host(inet_server_addr()), 'local socket') || ':' ||"
                                + " current_setting('port'), (SELECT oid FROM pg_database WHERE datname ="
                                + " current_database()) || '@' || (SELECT system_identifier FROM pg_control_system())")) {
            row.next();
            return new DatabaseIdentity(
                    product(),
                    row.getString(2),
                    row.getString(1),
                    row.getString(3),
                    JdbcUrl.shown(connection.getMetaData().getURL()),
                    false);
        }
    }

    @Override
    public Schema readSchema(Connection connection) throws SQLException {
        return SchemaDraft.steadily(() -> new PostgresSchemaReader(connection).read(), true);
    }

    @Override
    public Journal journal(Schema schema) {
        return new PostgresJournal(this, schema, false);
    }

    @Override
    public Optional<Journal> journalTogether(Schema schema) {
        return Optional.of(new PostgresJournal(this, schema, true));
    }

    @Override
    public String scriptCounter(Table table, Column numbered, long next) {
        String sequence = "'" + numbered.sequence().orElseThrow().replace("'", "''") + "'";
        return "DO $$ BEGIN PERFORM setval(" + sequence + ", greatest(nextval(" + sequence + "), " + next
                + "), false); END $$";
    }

    @Override
    public Sequences sequences() {
        return sequences;
    }

    @Override
    public long reserve(Connection connection, Table table, Column numbered, int count) throws SQLException {
        long least = new TableSql(this, table).max(connection, numbered) + 1;
        return sequences.reserve(connection, numbered.sequence().orElseThrow(), least, count);
    }

    @Override
    public int taken() {
        return sequences.taken().size();
    }

    @Override
    public void giveBack(Connection connection, int taken) throws SQLException {
        sequences.giveBack(connection, taken);
    }

    @Override
    public Map<Table, Long> reserve(Connection connection, Map<Table, Integer> counts) throws SQLException {
        return sequences.reserve(connection, counts);
    }

    @Override
    public Map<Table, Long> counters(Connection connection, List<Table> tables) throws SQLException {
        Map<Table, String> names = new HashMap<>();
        tables.forEach(table ->
                table.numberedColumn().flatMap(Column::sequence).ifPresent(sequence -> names.put(table, sequence)));
        Map<String, Long> next = sequences.next(connection, new LinkedHashSet<>(names.values()));
        Map<Table, Long> counters = new HashMap<>();
        names.forEach((table, sequence) -> counters.put(table, next.getOrDefault(sequence, 1L)));
        return counters;
    }

    @Override
    public void setCounter(Connection connection, Table table, Column numbered, long next) throws SQLException {
        sequences.restart(connection, numbered.sequence().orElseThrow(), next);
    }

    @Override
    public boolean withoutReferences(Connection connection, SqlWork work) throws SQLException {
        AtomicBoolean allowed = new AtomicBoolean();
        try (PreparedStatement statement =
                connection.prepareStatement("SET LOCAL session_replication_role = replica")) {
            Transactions.atomically(connection, () -> {
                statement.execute();
                allowed.set(true);
                work.run();
            });
            return true;
        } catch (SQLException e) {
            if (!allowed.get() && PERMISSION_DENIED.equals(e.getSQLState())) {
                return false;
            }
            throw e;
        }
    }

    @Override
    public Optional<String> constraint(SQLException refusal) {
        Matcher constraint = CONSTRAINT.matcher(String.valueOf(refusal.getMessage()));
        return constraint.find() ? Optional.of(constraint.group(1)) : Optional.empty();
    }

    @Override
    public boolean storeFast(Connection connection, Schema schema, RowSource rows) throws SQLException {
        return PostgresCopy.store(this, connection, rows);
    }

    /** Without a limit a statement waits for ever. */
    @Override
    public void prepare(Connection connection) throws SQLException {
        SchemaDraft.each(
                connection,
                "SELECT format('SET lock_timeout = %L; SET synchronous_commit = %L', current_setting('lock_timeout'),"
                        + " current_setting('synchronous_commit'))",
                rows -> settings = rows.getString(1));
        isolation = connection.getTransactionIsolation();
        if (isolation != Connection.TRANSACTION_READ_COMMITTED) {
            connection.setTransactionIsolation(Connection.TRANSACTION_READ_COMMITTED); // to see what others committed
        }
        try (Statement statement = connection.createStatement()) {
            // Nobody misses what a server that dies had not yet on its disk: it keeps the journal, too.
            statement.execute("SET lock_timeout = '5s'; SET synchronous_commit = off");
        }
    }

    @Override
    public void setBack(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute(settings);
        }
        if (isolation != Connection.TRANSACTION_READ_COMMITTED) {
            connection.setTransactionIsolation(isolation);
        }
    }

    @Override
    public boolean abortsTransactions() {
        return true;
    }

    @Override
    public boolean isAborted(Connection connection) throws SQLException {
        if (connection.isWrapperFor(BaseConnection.class)) {
            return connection.unwrap(BaseConnection.class).getTransactionState() == TransactionState.FAILED;
        }
        try (Statement statement = connection.createStatement()) {
            statement.execute("SELECT 1");
            return false;
        } catch (SQLException e) {
            return "25P02".equals(e.getSQLState());
        }
    }

    @Override
    public boolean isLocked(SQLException refusal) {
        return "55P03".equals(refusal.getSQLState());
    }

    @Override
    public boolean lock(Connection connection, DatabaseIdentity place) throws SQLException {
        try (Statement statement = connection.createStatement();
                ResultSet row = statement.executeQuery("SELECT pg_try_advisory_lock(" + LEASE + ")")) {
            row.next();
            return row.getBoolean(1);
        }
    }

    @Override
    public void unlock(Connection connection, DatabaseIdentity place) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute("SELECT pg_advisory_unlock(" + LEASE + ")");
        }
    }

    @Override
    public String holder(Connection connection, DatabaseIdentity place) throws SQLException {
        return SchemaDraft.first(
                        connection,
                        "SELECT 'server process ' || a.pid || ' of ' || a.usename || ' from ' || coalesce(host(a.client_addr),"
                                + " 'a local socket') FROM pg_locks l JOIN pg_stat_activity a USING (pid)"
                                + " WHERE l.locktype = 'advisory' AND l.granted AND l.database = (SELECT oid FROM pg_database"
                                + " WHERE datname = current_database()) AND ((l.classid::bigint << 32) | l.objid::bigint) = "
                                + LEASE,
                        rows -> rows.getString(1))
                .orElse("another process");
    }

    @Override
    public Optional<String> readOnly(Connection connection) throws SQLException {
        if (connection.isReadOnly()) { // which the driver tells the server with a transaction only
            return super.readOnly(connection);
        }
        return SchemaDraft.first(
                        connection,
                        "SELECT CASE WHEN pg_is_in_recovery() THEN 'it is a read replica of another server' WHEN"
                                + " current_setting('transaction_read_only') = 'on' THEN 'its transactions are read-only'"
                                + " ELSE '' END",
                        rows -> rows.getString(1))
                .filter(reason -> !reason.isEmpty());
    }

    /** Going back to the savepoint leaves the constraints as deferred as they were. */
    @Override
    public void checkDeferred(Connection connection) throws SQLException {
        Boolean may = defers;
        if (may == null) {
            may = SchemaDraft.texts(connection, "SELECT EXISTS (SELECT 1 FROM pg_constraint WHERE condeferrable)")
                    .contains("t");
            defers = may;
        }
        if (may) {
            try (Statement statement = connection.createStatement()) {
                statement.execute("SAVEPOINT zabbet_deferred; SET CONSTRAINTS ALL IMMEDIATE;"
                        + " ROLLBACK TO SAVEPOINT zabbet_deferred; RELEASE SAVEPOINT zabbet_deferred");
            }
        }
    }

    /** What belongs to an extension stays, since a script's CREATE EXTENSION IF NOT EXISTS finds it there. */
    @Override
    public void dropAll(Connection connection) throws SQLException {
        String own = " n.nspname NOT LIKE 'pg\\_%' AND n.nspname NOT IN ('information_schema', 'zabbet')";
        String notOfExtension =
                " AND NOT EXISTS (SELECT 1 FROM pg_depend d WHERE d.objid = x.oid AND d.deptype IN ('e', 'i'))";
        Transactions.atomically(connection, () -> {
            Dialect.runAll(
                    connection,
                    "SELECT format('DROP %s IF EXISTS %I.%I CASCADE', CASE x.relkind WHEN 'v' THEN 'VIEW' WHEN 'm' THEN"
                            + " 'MATERIALIZED VIEW' WHEN 'S' THEN 'SEQUENCE' WHEN 'f' THEN 'FOREIGN TABLE' ELSE 'TABLE'"
                            + " END, n.nspname, x.relname) FROM pg_class x JOIN pg_namespace n ON n.oid = x.relnamespace"
                            + " WHERE x.relkind IN ('r', 'p', 'v', 'm', 'S', 'f') AND NOT x.relispartition AND" + own
                            + notOfExtension);
            Dialect.runAll(
                    connection,
                    "SELECT format('DROP ROUTINE IF EXISTS %s CASCADE', x.oid::regprocedure) FROM pg_proc x"
                            + " JOIN pg_namespace n ON n.oid = x.pronamespace WHERE x.prokind <> 'a' AND" + own
                            + notOfExtension);
            Dialect.runAll(
                    connection,
                    "SELECT format('DROP TYPE IF EXISTS %I.%I CASCADE', n.nspname, x.typname) FROM pg_type x"
                            + " JOIN pg_namespace n ON n.oid = x.typnamespace WHERE x.typtype IN ('e', 'd', 'c', 'r')"
                            + " AND NOT EXISTS (SELECT 1 FROM pg_class c WHERE c.oid = x.typrelid AND c.relkind <> 'c') AND"
                            + own + notOfExtension);
            Dialect.runAll(
                    connection,
                    "SELECT format('DROP SCHEMA %I', x.nspname) FROM pg_namespace x WHERE x.nspname <> 'public'"
                            + " AND x.nspname NOT LIKE 'pg\\_%' AND x.nspname NOT IN ('information_schema', 'zabbet')"
                            + " AND NOT EXISTS (SELECT 1 FROM pg_depend d WHERE d.refobjid = x.oid)");
        });
    }

    @Override
    public String markTable() {
        return "zabbet.dedicated";
    }

    @Override
    public List<String> createMark() {
        return List.of(
                "CREATE SCHEMA IF NOT EXISTS zabbet",
                "CREATE TABLE IF NOT EXISTS zabbet.dedicated (identity text NOT NULL PRIMARY KEY)");
    }
}
