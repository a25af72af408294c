package dev.zabbet.jdbc.internal.mariadb;

import dev.zabbet.jdbc.internal.dialect.DatabaseIdentity;
import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.jdbc.internal.dialect.Journal;
import dev.zabbet.jdbc.internal.dialect.SchemaDraft;
import dev.zabbet.jdbc.internal.dialect.Sequences;
import dev.zabbet.jdbc.internal.dialect.SharedTransaction;
import dev.zabbet.jdbc.internal.dialect.TableSql;
import dev.zabbet.jdbc.internal.dialect.Transactions;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Load;
import dev.zabbet.store.RowSource;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** MariaDB. */
public final class MariaDbDialect extends MariaDbSql {
    private static final Pattern CONSTRAINT = Pattern.compile(
            "CONSTRAINT `([^`]+)`|for key '([^']+)'|[`.]([^`.]+)` failed for|Column '([^']+)' cannot be null");

    /** References are unchecked, and triggers rest; those of the journal too, if asked for. */
    static final String UNCHECKED = "SET @zabbet_rest = 1, @zabbet_quiet = {quiet}, foreign_key_checks = 0,"
            + " check_constraint_checks = 0, sql_mode = CONCAT(@@sql_mode, ',NO_AUTO_VALUE_ON_ZERO')";

    private static final String QUIET = "1";

    /**
     * The next transaction sees what others commit while it runs, and keeps nobody from writing beside its rows. A server that logs
     * statements refuses to write so.
     */
    static final String SEEING = "IF @@log_bin = 0 OR @@binlog_format <> 'STATEMENT' THEN"
            + " SET TRANSACTION ISOLATION LEVEL READ COMMITTED; END IF";

    /** All is as before {@link #UNCHECKED}. */
    static final String CHECKED = "SET @zabbet_rest = NULL, @zabbet_quiet = NULL, foreign_key_checks = 1,"
            + " check_constraint_checks = 1, sql_mode = REPLACE(@@sql_mode, 'NO_AUTO_VALUE_ON_ZERO', '')";

    private final MariaDbNamedLock namedLock = new MariaDbNamedLock();
    private final MariaDbPlaces databasesOf = new MariaDbPlaces(this);
    private final MariaDbSequences sequences = new MariaDbSequences(this);
    private @Nullable MariaDbCatalog catalog;
    private final MariaDbCounters counters = new MariaDbCounters(this);
    private String patience = "DO 0";

    @Override
    public String product() {
        return "MariaDB";
    }

    @Override
    public Schema readSchema(Connection connection) throws SQLException {
        MariaDbCatalog known = MariaDbCatalog.of(connection);
        catalog = known;
        return known.get(
                "schema", Schema.class, c -> SchemaDraft.steadily(() -> new MariaDbSchemaReader(c).read()), connection);
    }

    @Override
    public Journal journal(Schema schema) {
        return new MariaDbJournal(this, schema, false);
    }

    @Override
    public Optional<Journal> journalTogether(Schema schema) {
        return Optional.of(new MariaDbJournal(this, schema, true));
    }

    /** A statement of ours has altered a table, and nothing that is known of it. */
    void altered() {
        MariaDbCatalog known = catalog;
        if (known != null) {
            known.altered(1);
        }
    }

    MariaDbCounters counters() {
        return counters;
    }

    /** From MariaDB 11 on they are shown to those only who may make some. */
    @Override
    public boolean showsTriggers() {
        return false;
    }

    @Override
    public String leftOutOfScripts(Connection connection) throws SQLException {
        return quote(String.valueOf(connection.getCatalog())) + ".";
    }

    @Override
    public Sequences sequences() {
        return sequences;
    }

    @Override
    public String scriptCounter(Table table, Column numbered, long next) {
        return numbered.sequence()
                .map(sequence -> "SELECT SETVAL(" + sequence + ", " + next + ", 0)")
                .orElse(""); // AUTO_INCREMENT moves by itself
    }

    @Override
    public long reserve(Connection connection, Table table, Column numbered, int count) throws SQLException {
        long least = new TableSql(this, table).max(connection, numbered) + 1;
        if (numbered.sequence().isPresent()) {
            return sequences.reserve(connection, numbered.sequence().get(), least, count);
        }
        Long belongs = counters.belongs(table);
        return Math.max(
                belongs != null
                        ? belongs
                        : countersNow(connection, List.of(table)).getOrDefault(table, 1L),
                least);
    }

    /** In one query; sequences are taken from by themselves. */
    @Override
    public Map<Table, Long> reserve(Connection connection, Map<Table, Integer> counts) throws SQLException {
        List<Table> tables = counts.keySet().stream()
                .filter(table ->
                        table.numberedColumn().flatMap(Column::sequence).isEmpty())
                .toList();
        Map<Table, Long> first = new HashMap<>();
        if (tables.isEmpty()) {
            return first;
        }
        StringBuilder sql = new StringBuilder("SELECT ");
        for (Table table : tables) {
            String column = quote(table.numberedColumn().orElseThrow().sqlName());
            sql.append(first.isEmpty() ? "" : ", ")
                    .append("(SELECT MAX(" + column + ") FROM " + name(table) + "), ")
                    .append(
                            counters.belongs(table) != null
                                    ? String.valueOf(counters.belongs(table))
                                    : "(SELECT AUTO_INCREMENT FROM information_schema.TABLES WHERE TABLE_SCHEMA = "
                                            + literal(table.sqlSchema()) + " AND TABLE_NAME = "
                                            + literal(table.sqlName()) + ")");
            first.put(table, 1L);
        }
        Connection direct = SharedTransaction.direct(connection);
        SchemaDraft.each(direct, sql.toString(), row -> {
            for (int i = 0; i < tables.size(); i++) {
                first.put(tables.get(i), Math.max(row.getLong(2 * i + 1) + 1, Math.max(1, row.getLong(2 * i + 2))));
            }
        });
        return first;
    }

    @Override
    public boolean sharesReserved(Column numbered) {
        return numbered.sequence().isEmpty(); // ALTER TABLE would move AUTO_INCREMENT, and commit
    }

    @Override
    public Map<Table, Long> counters(Connection connection, List<Table> tables) throws SQLException {
        return counters.next(connection, tables, null);
    }

    @Override
    public Map<Table, Long> counters(Connection connection, List<Table> tables, @Nullable String told)
            throws SQLException {
        return counters.next(connection, tables, told);
    }

    @Override
    public boolean leavesCounter(Table table, long next) {
        return counters.leave(table, next);
    }

    @Override
    public Map<Table, Long> takeCountersLeft() {
        return counters.takeLeft();
    }

    @Override
    public void stored(Load load) {
        counters.stored(load);
    }

    @Override
    public void rewound() {
        counters.rewound();
    }

    /** Returns where counters stand in the database. */
    Map<Table, Long> countersNow(Connection connection, List<Table> tables) throws SQLException {
        Map<String, Long> next = new HashMap<>();
        String one = tables.size() == 1
                ? " AND TABLE_NAME = '" + tables.get(0).sqlName().replace("'", "''") + "'"
                : "";
        for (String database : tables.stream().map(Table::sqlSchema).collect(Collectors.toSet())) {
            SchemaDraft.each(
                    connection,
                    MariaDbDatabases.in(
                            database,
                            "SELECT TABLE_NAME, AUTO_INCREMENT FROM information_schema.TABLES WHERE TABLE_SCHEMA ="
                                    + " DATABASE() AND AUTO_INCREMENT IS NOT NULL" + one),
                    rows -> next.put(database + SchemaDraft.BETWEEN + rows.getString(1), rows.getLong(2)));
        }
        Map<Table, Long> counters = new HashMap<>();
        for (Table table : tables) {
            String sequence = table.numberedColumn().flatMap(Column::sequence).orElse(null);
            Long number = sequence != null
                    ? (Long) sequences.unused(connection, sequence)
                    : next.get(table.sqlSchema() + SchemaDraft.BETWEEN + table.sqlName());
            if (number != null && table.numberedColumn().isPresent()) {
                counters.put(table, number);
            }
        }
        return counters;
    }

    @Override
    public void setCounter(Connection connection, Table table, Column numbered, long next) throws SQLException {
        if (numbered.sequence().isPresent()) {
            sequences.restart(connection, numbered.sequence().get(), next);
            return;
        }
        counters.alter(connection, table, next);
    }

    @Override
    public boolean withoutReferences(Connection connection, SqlWork work) throws SQLException {
        return unchecked(connection, "NULL", work);
    }

    @Override
    public boolean unnoticed(Connection connection, SqlWork work) throws SQLException {
        return unchecked(connection, QUIET, work);
    }

    private static boolean unchecked(Connection connection, String quiet, SqlWork work) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute(UNCHECKED.replace("{quiet}", quiet));
            try {
                if (quiet.equals(QUIET)) {
                    statement.execute(SEEING);
                }
                Transactions.atomically(connection, work);
                return true;
            } finally {
                statement.execute(CHECKED);
            }
        }
    }

    /** The driver asks the server twice more to switch what it does by itself. */
    @Override
    public void begin(Connection connection) throws SQLException {
        if (SharedTransaction.has(connection)) {
            super.begin(connection);
        } else {
            execute(connection, "START TRANSACTION");
        }
    }

    @Override
    public void commit(Connection connection) throws SQLException {
        if (SharedTransaction.has(connection)) {
            super.commit(connection);
        } else {
            execute(connection, "COMMIT");
        }
    }

    @Override
    public void rollBack(Connection connection) throws SQLException {
        if (SharedTransaction.has(connection)) {
            super.rollBack(connection);
        } else {
            execute(connection, "ROLLBACK");
        }
    }

    private static void execute(Connection connection, String sql) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute(sql);
        }
    }

    @Override
    public String howToAllowTriggers() {
        return "GRANT ALL ON the database, and SET USER where triggers belong to other users";
    }

    @Override
    public Optional<String> constraint(SQLException refusal) {
        Matcher constraint = CONSTRAINT.matcher(String.valueOf(refusal.getMessage()));
        if (!constraint.find()) {
            return Optional.empty();
        }
        for (int group = 1; group <= constraint.groupCount(); group++) {
            if (constraint.group(group) != null) {
                return Optional.of(constraint.group(group));
            }
        }
        return Optional.empty();
    }

    @Override
    public boolean storeFast(Connection connection, Schema schema, RowSource rows) throws SQLException {
        return MariaDbLoadData.store(this, connection, schema, rows);
    }

    /** The driver sends a batch as one, and counts the rows of a refused one wrongly. */
    @Override
    public boolean tellsRefusedRow() {
        return false;
    }

    @Override
    public void dropAll(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute("SET foreign_key_checks = 0");
            Dialect.runAll(
                    connection,
                    "SELECT CONCAT('DROP ', CASE TABLE_TYPE WHEN 'VIEW' THEN 'VIEW' WHEN 'SEQUENCE' THEN 'SEQUENCE' ELSE"
                            + " 'TABLE' END, ' `', REPLACE(TABLE_NAME, '`', '``'), '`') FROM information_schema.TABLES"
                            + " WHERE TABLE_SCHEMA = DATABASE() AND TABLE_NAME NOT LIKE 'zabbet\\_%'");
            Dialect.runAll(
                    connection,
                    "SELECT CONCAT('DROP ', ROUTINE_TYPE, ' `', REPLACE(ROUTINE_NAME, '`', '``'), '`') FROM"
                            + " information_schema.ROUTINES WHERE ROUTINE_SCHEMA = DATABASE()"
                            + " AND ROUTINE_NAME NOT LIKE 'zabbet\\_%'");
            statement.execute("SET foreign_key_checks = 1");
        }
    }

    @Override
    public boolean isMissingRight(SQLException refusal) {
        return refusal.getErrorCode() == 1142
                || refusal.getErrorCode() == 1044
                || refusal.getErrorCode() == 1227
                || refusal.getErrorCode() == 1419;
    }

    /** Changes of tables wait a day for whoever has read them in an open transaction, if nothing is said. */
    @Override
    public void prepare(Connection connection) throws SQLException {
        SchemaDraft.each(
                connection,
                "SELECT CONCAT('SET lock_wait_timeout = ', @@lock_wait_timeout, ', innodb_lock_wait_timeout = ',"
                        + " @@innodb_lock_wait_timeout)",
                rows -> patience = rows.getString(1));
        try (Statement statement = connection.createStatement()) {
            statement.execute("SET lock_wait_timeout = 5, innodb_lock_wait_timeout = 5");
        }
    }

    @Override
    public void setBack(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute(patience);
        }
    }

    @Override
    public boolean readsSnapshots() {
        return true;
    }

    @Override
    public boolean isTwin(SQLException refusal) {
        return refusal.getErrorCode() == 1062;
    }

    @Override
    public boolean isLocked(SQLException refusal) {
        return refusal.getErrorCode() == 1205;
    }

    @Override
    public boolean isIn(Table table, DatabaseIdentity place) {
        return table.sqlSchema().equals(place.database());
    }

    @Override
    public List<String> removing(Connection connection) throws SQLException {
        return SchemaDraft.texts(
                connection,
                "SELECT CONCAT('DROP TABLE `', TABLE_NAME, '`') FROM information_schema.TABLES WHERE TABLE_SCHEMA = DATABASE()"
                        + " AND TABLE_TYPE = 'BASE TABLE' AND TABLE_NAME LIKE 'zabbet\\_%'");
    }

    @Override
    public String markTable(DatabaseIdentity place) {
        return quote(place.database()) + "." + markTable();
    }

    @Override
    public Optional<String> readOnly(Connection connection) throws SQLException {
        boolean readOnly = SchemaDraft.first(
                        connection, "SELECT @@read_only OR @@tx_read_only", rows -> rows.getBoolean(1))
                .orElse(false);
        return readOnly ? Optional.of("its server or session is read-only, as a replica is") : Optional.empty();
    }

    @Override
    public DatabaseIdentity place(Connection connection) throws SQLException {
        return databasesOf.place(connection);
    }

    /** Places of other databases are those that tables are in to which a reference leads. */
    @Override
    public List<DatabaseIdentity> places(Connection connection, DatabaseIdentity home, Schema schema)
            throws SQLException {
        return databasesOf.places(connection, home, schema);
    }

    @Override
    public boolean lock(Connection connection, DatabaseIdentity place) throws SQLException {
        return namedLock.lock(connection, place);
    }

    @Override
    public void unlock(Connection connection, DatabaseIdentity place) throws SQLException {
        namedLock.unlock(connection, place);
    }

    @Override
    public String holder(Connection connection, DatabaseIdentity place) throws SQLException {
        return namedLock.holder(connection, place);
    }
}
