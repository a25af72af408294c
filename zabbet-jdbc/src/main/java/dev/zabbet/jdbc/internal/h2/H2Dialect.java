package dev.zabbet.jdbc.internal.h2;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.jdbc.internal.connect.JdbcUrl;
import dev.zabbet.jdbc.internal.dialect.DatabaseIdentity;
import dev.zabbet.jdbc.internal.dialect.Journal;
import dev.zabbet.jdbc.internal.dialect.RefusedRowException;
import dev.zabbet.jdbc.internal.dialect.SchemaDraft;
import dev.zabbet.jdbc.internal.dialect.Sequences;
import dev.zabbet.jdbc.internal.dialect.SharedTransaction;
import dev.zabbet.jdbc.internal.dialect.StatementCache;
import dev.zabbet.jdbc.internal.dialect.TableSql;
import dev.zabbet.jdbc.internal.dialect.Transactions;
import dev.zabbet.jdbc.internal.guard.FileBirth;
import dev.zabbet.jdbc.internal.guard.FileLease;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Load;
import dev.zabbet.store.RowSource;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;

/** H2. */
public final class H2Dialect extends H2Sql {
    private static final int GENERAL_ERROR = 50000;

    private static final int ROWS_AT_ONCE = 1000;

    private static final Pattern CONSTRAINT =
            Pattern.compile("violation: \"(?:\\w+\\.)*(\\w+)|NULL not allowed for column \"(\\w+)\"");

    /** Of an administrator, of the user; a trigger's class that a server in another process does not have. */
    private static final List<Integer> MISSING_RIGHTS = List.of(90040, 90096, 90043, 90086);

    /**
     * Schemas that are not the application's, in either case: H2 folds letters as the language of the process does, and in
     * Turkish the upper case of i has a dot.
     */
    static final String NOT_ITS_OWN =
            " NOT IN ('INFORMATION_SCHEMA', 'PG_CATALOG', 'ZABBET', 'information_schema', 'pg_catalog', 'zabbet')";

    private final StatementCache kept = new StatementCache();
    private final H2Sequences sequences = new H2Sequences(this);
    private final Map<Table, String> names = new HashMap<>();
    private boolean loading; // and said so in the database

    /** Returns the condition on INFORMATION_SCHEMA.TABLES that a table of ours is this one, in either case. */
    static String isOurs(String table) {
        return "TABLE_SCHEMA IN ('ZABBET', 'zabbet') AND TABLE_NAME IN ('" + table + "', '"
                + table.toLowerCase(Locale.ROOT) + "')";
    }

    @Override
    public String product() {
        return "H2";
    }

    @Override
    public DatabaseIdentity place(Connection connection) throws SQLException {
        String url = connection.getMetaData().getURL();
        String name = url.replaceFirst("^jdbc:h2:", "").replaceAll(";.*", "");
        boolean memory = name.startsWith("mem:");
        boolean server = name.startsWith("tcp:") || name.startsWith("ssl:");
        String host = server ? name.replaceAll("^\\w+://([^/]+)/.*$", "$1") : "this machine";
        String file = memory
                ? name
                : SchemaDraft.first(connection, "SELECT DATABASE_PATH()", rows -> rows.getString(1))
                        .orElse(name);
        String birth = memory ? "" : FileBirth.of(file + ".mv.db");
        return new DatabaseIdentity(product(), host, file, birth, JdbcUrl.shown(url.replaceAll(";.*", "")), memory);
    }

    @Override
    public Schema readSchema(Connection connection) throws SQLException {
        return SchemaDraft.steadily(() -> {
            try {
                return new H2SchemaReader(connection).read();
            } catch (SQLException e) {
                if (e.getErrorCode() == GENERAL_ERROR && e.getCause() instanceof NullPointerException) {
                    // H2 itself fails so where a table goes while it lists the columns of keys
                    throw SchemaDraft.moved(String.valueOf(e.getMessage()));
                }
                throw e;
            }
        });
    }

    /** With AUTO_SERVER several processes reach one file. */
    @Override
    public boolean lock(Connection connection, DatabaseIdentity place) throws SQLException {
        return place.inThisProcess() || FileLease.take(place.database());
    }

    @Override
    public Journal journal(Schema schema) {
        return new H2Journal(this, schema, false);
    }

    @Override
    public Optional<Journal> journalTogether(Schema schema) {
        return Optional.of(new H2Journal(this, schema, true));
    }

    @Override
    public String scriptCounter(Table table, Column numbered, long next) {
        if (numbered.sequence().isPresent()) {
            return "ALTER SEQUENCE " + numbered.sequence().get() + " RESTART WITH " + next;
        }
        return "ALTER TABLE " + name(table) + " ALTER COLUMN " + quote(numbered.sqlName()) + " RESTART WITH " + next;
    }

    /** Rows with explicit keys may lie beyond the counter, since H2 does not move it for them. */
    @Override
    public long reserve(Connection connection, Table table, Column numbered, int count) throws SQLException {
        long least = new TableSql(this, table).max(connection, numbered) + 1;
        String name = names(connection, List.of(table)).get(table);
        if (name == null) {
            return least;
        }
        return SharedTransaction.has(connection)
                ? sequences.reserveWithoutCommit(connection, name, least, count)
                : sequences.reserve(connection, name, least, count);
    }

    /** In one query, where one row of each is wanted. */
    @Override
    public Map<Table, Long> reserve(Connection connection, Map<Table, Integer> counts) throws SQLException {
        Map<Table, String> names = names(connection, List.copyOf(counts.keySet()));
        List<Table> single = counts.keySet().stream()
                .filter(table -> counts.getOrDefault(table, 0) == 1 && names.containsKey(table))
                .toList();
        Map<Table, Long> first = new HashMap<>();
        if (single.isEmpty()) {
            return first;
        }
        String sql = single.stream()
                .map(table -> "(SELECT MAX("
                        + quote(table.numberedColumn().orElseThrow().sqlName()) + ") FROM " + name(table)
                        + "), NEXT VALUE FOR " + names.get(table))
                .collect(Collectors.joining(", ", "SELECT ", ""));
        readOften(SharedTransaction.direct(connection), sql, row -> {
            for (int i = 0; i < single.size(); i++) {
                if (row.getLong(2 * i + 2) > row.getLong(2 * i + 1)) {
                    first.put(single.get(i), row.getLong(2 * i + 2));
                }
            }
        });
        return first;
    }

    @Override
    public void restart(Connection connection, Table table, Column numbered) throws SQLException {
        if (numbered.sequence().isPresent()) {
            super.restart(connection, table, numbered);
            return;
        }
        try (Statement statement = connection.createStatement()) {
            statement.execute("ALTER TABLE " + name(table) + " ALTER COLUMN " + quote(numbered.sqlName()) + " RESTART");
        }
    }

    @Override
    public Sequences sequences() {
        return sequences;
    }

    @Override
    public Map<Table, Long> counters(Connection connection, List<Table> tables) throws SQLException {
        Map<Table, String> of = names(connection, tables);
        Map<String, Long> next = sequences.next(connection, new LinkedHashSet<>(of.values()));
        if (!next.keySet().containsAll(of.values())) { // tables were made again
            names.clear();
            of = names(connection, tables);
            next = sequences.next(connection, new LinkedHashSet<>(of.values()));
        }
        Map<Table, Long> counters = new HashMap<>();
        for (Map.Entry<Table, String> name : of.entrySet()) {
            counters.put(name.getKey(), next.getOrDefault(name.getValue(), 1L));
        }
        return counters;
    }

    private Map<Table, String> names(Connection connection, List<Table> tables) throws SQLException {
        Map<Table, String> some = new LinkedHashMap<>();
        for (Table table : tables) {
            Column numbered = table.numberedColumn().orElse(null);
            if (numbered != null && !names.containsKey(table)) {
                String own = numbered.sequence().isPresent()
                        ? numbered.sequence().get()
                        : sequences.ofColumn(connection, table);
                if (own != null) {
                    names.put(table, own);
                }
            }
            if (names.containsKey(table)) {
                some.put(table, names.getOrDefault(table, ""));
            }
        }
        return some;
    }

    @Override
    public void often(Connection connection, String sql, StatementWork work) throws SQLException {
        kept.run(connection, sql, work);
    }

    @Override
    public void setCounter(Connection connection, Table table, Column numbered, long next) throws SQLException {
        if (numbered.sequence().isPresent()) {
            sequences.restart(connection, numbered.sequence().get(), next);
            return;
        }
        try (Statement statement = connection.createStatement()) {
            statement.execute("ALTER TABLE " + name(table) + " ALTER COLUMN " + quote(numbered.sqlName())
                    + " RESTART WITH " + next);
        }
    }

    @Override
    public boolean withoutReferences(Connection connection, SqlWork work) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute("SET REFERENTIAL_INTEGRITY FALSE");
        } catch (SQLException e) {
            if (isMissingRight(e)) {
                return false;
            }
            throw e;
        }
        boolean resting = true; // some of them, if not all can be made to
        try (Statement statement = connection.createStatement()) {
            try {
                resting = H2Triggers.rest(this, connection);
                Transactions.atomically(connection, work);
                return true;
            } finally {
                statement.execute("SET REFERENTIAL_INTEGRITY TRUE");
                if (resting) {
                    H2Triggers.work(connection);
                }
            }
        }
    }

    /** The journal's triggers are told by a variable of the session. */
    @Override
    public boolean unnoticed(Connection connection, SqlWork work) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute("SET @ZABBET_QUIET = 1");
            try {
                return withoutReferences(connection, work);
            } finally {
                statement.execute("SET @ZABBET_QUIET = NULL");
            }
        }
    }

    @Override
    public boolean isMissingRight(SQLException refusal) {
        return MISSING_RIGHTS.contains(refusal.getErrorCode());
    }

    @Override
    public boolean isLocked(SQLException refusal) {
        return refusal.getErrorCode() == 50200;
    }

    @Override
    public String howToAllowTriggers() {
        return "make it an administrator, of a database in the test's own process";
    }

    @Override
    public Optional<String> constraint(SQLException refusal) {
        Matcher constraint = CONSTRAINT.matcher(String.valueOf(refusal.getMessage()));
        if (!constraint.find()) {
            return Optional.empty();
        }
        String name = constraint.group(1) == null ? constraint.group(2) : constraint.group(1);
        return Optional.of(name.toLowerCase(Locale.ROOT));
    }

    /** Only administrators see where counters stand and what triggers do, whatever else a user may. */
    @Override
    public void prepare(Connection connection) throws SQLException {
        Optional<String> ordinary = SchemaDraft.first(
                connection,
                "SELECT USER_NAME, IS_ADMIN FROM INFORMATION_SCHEMA.USERS WHERE USER_NAME = CURRENT_USER",
                rows -> "TRUE".equalsIgnoreCase(rows.getString(2)) ? null : rows.getString(1));
        if (ordinary.isPresent()) {
            throw new ZabbetException("A stage on H2 needs a user who is an administrator, which " + ordinary.get()
                    + " is not. Open it as another (the application may keep its own user: changes are noted whoever"
                    + " makes them), or let an administrator run: ALTER USER " + quote(ordinary.get()) + " ADMIN TRUE");
        }
    }

    @Override
    public void beforeLoad(Connection connection, Load load) throws SQLException {
        loading = H2Loads.begin(this, connection, load);
    }

    @Override
    public void endOfLoad(Connection connection) throws SQLException {
        if (loading) {
            H2Loads.end(connection);
        }
    }

    @Override
    public void requireWhole(Connection connection, DatabaseIdentity place, Schema schema) throws SQLException {
        H2Loads.requireWhole(this, connection, place, schema);
    }

    /** One statement for many rows spares H2 the cost of a statement for each. */
    @Override
    public boolean storeFast(Connection connection, Schema schema, RowSource rows) throws SQLException {
        List<Column> columns = rows.columns();
        if (columns.isEmpty()) {
            return false;
        }
        TableSql sql = new TableSql(this, rows.table());
        int whole = rows.size() - rows.size() % ROWS_AT_ONCE;
        if (whole > 0) {
            store(connection, sql.insert(columns, ROWS_AT_ONCE), rows, 0, whole, ROWS_AT_ONCE);
        }
        if (whole < rows.size()) {
            int rest = rows.size() - whole;
            store(connection, sql.insert(columns, rest), rows, whole, rows.size(), rest);
        }
        return true;
    }

    private void store(Connection connection, String sql, RowSource rows, int from, int to, int atOnce)
            throws SQLException {
        Column[] columns = rows.columns().toArray(Column[]::new);
        try (PreparedStatement statement = connection.prepareStatement(sql)) {
            int index = 1;
            for (int row = from; row < to; row++) {
                for (int c = 0; c < columns.length; c++) {
                    bind(statement, index++, columns[c], rows.value(row, c));
                }
                if ((row - from) % atOnce == atOnce - 1) {
                    statement.executeUpdate();
                    index = 1;
                }
            }
        } catch (SQLException e) {
            throw new RefusedRowException(e, -1);
        }
    }

    @Override
    public Optional<String> readOnly(Connection connection) throws SQLException {
        boolean readOnly = SchemaDraft.first(connection, "SELECT READONLY()", rows -> rows.getBoolean(1))
                .orElse(false);
        return readOnly ? Optional.of("it is opened read-only") : Optional.empty();
    }

    @Override
    public void dropAll(Connection connection) throws SQLException {
        List<String> identities = new java.util.ArrayList<>();
        try {
            SchemaDraft.each(
                    connection, "SELECT identity FROM ZABBET.DEDICATED", rows -> identities.add(rows.getString(1)));
        } catch (SQLException e) {
            identities.clear(); // in memory there is no mark
        }
        try (Statement statement = connection.createStatement()) {
            statement.execute("DROP ALL OBJECTS");
            for (String sql : identities.isEmpty() ? List.<String>of() : createMark()) {
                statement.execute(sql);
            }
        }
        for (String identity : identities) {
            try (PreparedStatement insert = connection.prepareStatement("INSERT INTO ZABBET.DEDICATED VALUES (?)")) {
                insert.setString(1, identity);
                insert.executeUpdate();
            }
        }
    }

    @Override
    public void end(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute("SHUTDOWN");
        }
    }

    @Override
    public String markTable() {
        return "ZABBET.DEDICATED";
    }

    @Override
    public List<String> createMark() {
        return List.of(
                "CREATE SCHEMA IF NOT EXISTS ZABBET",
                "CREATE TABLE IF NOT EXISTS ZABBET.DEDICATED (identity VARCHAR(500) NOT NULL PRIMARY KEY)");
    }
}
