package dev.zabbet.jdbc.internal.sqlite;

import dev.zabbet.jdbc.internal.dialect.DatabaseIdentity;
import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.jdbc.internal.dialect.Journal;
import dev.zabbet.jdbc.internal.dialect.SchemaDraft;
import dev.zabbet.jdbc.internal.dialect.SharedTransaction;
import dev.zabbet.jdbc.internal.dialect.StatementCache;
import dev.zabbet.jdbc.internal.dialect.TableSql;
import dev.zabbet.jdbc.internal.dialect.Transactions;
import dev.zabbet.jdbc.internal.guard.FileBirth;
import dev.zabbet.jdbc.internal.guard.FileLease;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;

/**
 * SQLite. It keeps whatever it is given in whatever column; dates and times are written as the text that its own
 * functions give, and read from text or from milliseconds.
 */
public final class SqliteDialect extends SqliteSql {
    private static final Pattern CONSTRAINT =
            Pattern.compile("constraint failed(?: \\(|: )(?:[^()]*: )?([^()\\s]+)\\)?");

    private final StatementCache kept = new StatementCache();
    private final Map<String, String> before = new LinkedHashMap<>(); // pragmas that were set
    private boolean counts;
    private long versionWithoutTriggers = -1;

    @Override
    public String product() {
        return "SQLite";
    }

    @Override
    public DatabaseIdentity place(Connection connection) throws SQLException {
        String url = connection.getMetaData().getURL();
        String file = SchemaDraft.first(
                        connection,
                        "SELECT file FROM pragma_database_list WHERE name = 'main'",
                        rows -> rows.getString(1))
                .orElse("");
        boolean memory = file.isEmpty();
        return new DatabaseIdentity(
                product(),
                "this machine",
                memory ? url.replace("jdbc:sqlite:", "") : file,
                memory ? "" : FileBirth.of(file),
                url,
                memory);
    }

    @Override
    public Schema readSchema(Connection connection) throws SQLException {
        return SchemaDraft.steadily(() -> new SqliteSchemaReader(connection).read());
    }

    @Override
    public Journal journal(Schema schema) {
        return new SqliteJournal(this, schema, false);
    }

    @Override
    public Optional<Journal> journalTogether(Schema schema) {
        return Optional.of(new SqliteJournal(this, schema, true));
    }

    @Override
    public long reserve(Connection connection, Table table, Column numbered, int count) throws SQLException {
        long next = counters(connection, List.of(table)).getOrDefault(table, 1L);
        return Math.max(next, new TableSql(this, table).max(connection, numbered) + 1);
    }

    @Override
    public Map<Table, Long> reserve(Connection connection, Map<Table, Integer> counts) throws SQLException {
        Map<Table, Long> first = new HashMap<>();
        List<Table> tables = List.copyOf(counts.keySet());
        if (tables.isEmpty() || !hasCounts(connection)) {
            return first;
        }
        String sql = tables.stream()
                .map(table -> "(SELECT MAX("
                        + quote(table.numberedColumn().orElseThrow().sqlName()) + ") FROM " + name(table)
                        + "), (SELECT seq FROM sqlite_sequence WHERE name = " + literal(table.sqlName()) + ")")
                .collect(Collectors.joining(", ", "SELECT ", ""));
        readOften(SharedTransaction.direct(connection), sql, row -> {
            for (int i = 0; i < tables.size(); i++) {
                first.put(tables.get(i), Math.max(row.getLong(2 * i + 1), row.getLong(2 * i + 2)) + 1);
            }
        });
        return first;
    }

    /** Pages that were changed after a savepoint are kept until it is released, and all put back each time. */
    @Override
    public boolean savepointsGrow() {
        return true;
    }

    /** Once there is a table of counters, it stays. */
    private boolean hasCounts(Connection connection) throws SQLException {
        if (!counts) {
            readOften(connection, "SELECT 1 FROM sqlite_master WHERE name = 'sqlite_sequence'", rows -> counts = true);
        }
        return counts;
    }

    @Override
    public boolean sharesReserved(Column numbered) {
        return true;
    }

    @Override
    public Map<Table, Long> counters(Connection connection, List<Table> tables) throws SQLException {
        Map<String, Long> last = new HashMap<>();
        if (hasCounts(connection)) {
            readOften(
                    connection,
                    "SELECT name, seq FROM sqlite_sequence",
                    rows -> last.put(rows.getString(1), rows.getLong(2)));
        }
        Map<Table, Long> counters = new HashMap<>();
        for (Table table : tables) {
            Long number = last.get(table.sqlName());
            if (number != null && table.numberedColumn().isPresent()) {
                counters.put(table, number + 1);
            }
        }
        return counters;
    }

    @Override
    public void setCounter(Connection connection, Table table, Column numbered, long next) throws SQLException {
        try (PreparedStatement statement =
                connection.prepareStatement("UPDATE sqlite_sequence SET seq = ? WHERE name = ?")) {
            statement.setLong(1, next - 1);
            statement.setString(2, table.sqlName());
            statement.executeUpdate();
        }
    }

    @Override
    public boolean withoutReferences(Connection connection, SqlWork work) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            boolean checked = SchemaDraft.first(connection, "PRAGMA foreign_keys", rows -> rows.getBoolean(1))
                    .orElse(false);
            statement.execute("PRAGMA foreign_keys = OFF");
            statement.execute("PRAGMA ignore_check_constraints = ON");
            try {
                Transactions.atomically(connection, () -> {
                    List<String> triggers = takeTriggers(connection, statement);
                    work.run();
                    for (String trigger : triggers) {
                        statement.execute(trigger);
                    }
                });
                return true;
            } finally {
                statement.execute("PRAGMA ignore_check_constraints = OFF");
                statement.execute("PRAGMA foreign_keys = " + (checked ? "ON" : "OFF"));
            }
        }
    }

    /**
     * Drops the application's triggers, as tables can be changed in a transaction here; returns what makes them again.
     * The youngest trigger fires first, which has to be the one that notes new rows: it is made again after them. Those that
     * write to a virtual table stay: nothing else keeps a full-text index in step with its rows.
     */
    private List<String> takeTriggers(Connection connection, Statement statement) throws SQLException {
        long version = firstOften(connection, "PRAGMA schema_version", rows -> rows.getLong(1), 0L);
        if (version == versionWithoutTriggers) {
            return List.of();
        }
        List<String> makes = new ArrayList<>();
        List<String> drops = new ArrayList<>();
        AtomicBoolean applications = new AtomicBoolean();
        readOften(
                connection,
                "SELECT name, sql, name LIKE 'zabbet\\_i\\_%' ESCAPE '\\' AS ours FROM sqlite_master WHERE type = 'trigger'"
                        + " AND (ours OR name NOT LIKE 'zabbet\\_%' ESCAPE '\\' AND NOT EXISTS (SELECT 1 FROM pragma_table_list v"
                        + " WHERE v.type = 'virtual' AND instr(lower(sql), lower(v.name)) > 0)) ORDER BY ours, rowid",
                rows -> {
                    drops.add("DROP TRIGGER " + quote(rows.getString(1)));
                    makes.add(rows.getString(2));
                    if (!rows.getBoolean(3)) {
                        applications.set(true);
                    }
                });
        if (!applications.get()) {
            versionWithoutTriggers = version;
            return List.of();
        }
        for (String drop : drops) {
            statement.execute(drop);
        }
        return makes;
    }

    /** Without an epoch the journal's triggers note nothing. */
    @Override
    public boolean unnoticed(Connection connection, SqlWork work) throws SQLException {
        return withoutReferences(connection, () -> {
            long epoch = firstOften(connection, "SELECT n FROM zabbet_epoch", row -> row.getLong(1), 0L);
            often(connection, "DELETE FROM zabbet_epoch", PreparedStatement::executeUpdate);
            work.run();
            often(connection, "INSERT INTO zabbet_epoch VALUES (?)", insert -> {
                insert.setLong(1, epoch + 1);
                insert.executeUpdate();
            });
        });
    }

    @Override
    public void often(Connection connection, String sql, StatementWork work) throws SQLException {
        kept.run(connection, sql, work);
    }

    @Override
    public Optional<String> constraint(SQLException refusal) {
        Matcher constraint = CONSTRAINT.matcher(String.valueOf(refusal.getMessage()));
        return constraint.find() ? Optional.of(constraint.group(1)) : Optional.empty();
    }

    @Override
    public List<String> removing(Connection connection) throws SQLException {
        return SchemaDraft.texts(
                connection,
                "SELECT 'DROP TABLE \"' || name || '\"' FROM sqlite_master WHERE type = 'table' AND name LIKE 'zabbet\\_%'"
                        + " ESCAPE '\\'");
    }

    /** SQLite checks references only on connections that ask for it. */
    @Override
    public void prepare(Connection connection) throws SQLException {
        set(connection, "foreign_keys", "1");
        set(connection, "busy_timeout", "2000");
        if (pragma(connection, "journal_mode").equals("delete")) {
            set(connection, "journal_mode", "truncate"); // cheaper; another mode is the database's own
        }
        set(connection, "synchronous", "0"); // rows for tests need not survive a power cut
    }

    private void set(Connection connection, String pragma, String value) throws SQLException {
        before.put(pragma, pragma(connection, pragma));
        try (Statement statement = connection.createStatement()) {
            statement.execute("PRAGMA " + pragma + " = " + value);
        }
    }

    private static String pragma(Connection connection, String pragma) throws SQLException {
        return SchemaDraft.texts(connection, "PRAGMA " + pragma).get(0);
    }

    @Override
    public void setBack(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            for (Map.Entry<String, String> pragma : before.entrySet()) {
                statement.execute("PRAGMA " + pragma.getKey() + " = " + pragma.getValue());
            }
        }
        before.clear();
    }

    @Override
    public boolean isTwin(SQLException refusal) {
        return String.valueOf(refusal.getMessage()).contains("UNIQUE constraint failed");
    }

    @Override
    public boolean isLocked(SQLException refusal) {
        int code = refusal.getErrorCode() & 0xff;
        return code == 5 || code == 6; // SQLITE_BUSY, SQLITE_LOCKED
    }

    @Override
    public boolean tellsRefusedRow() {
        return false;
    }

    @Override
    public void dropAll(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute("PRAGMA foreign_keys = OFF");
            for (String type : List.of("view", "table")) {
                Dialect.runAll(
                        connection,
                        "SELECT 'DROP " + type + " \"' || replace(name, '\"', '\"\"') || '\"' FROM sqlite_master"
                                + " WHERE type = '" + type + "' AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\'"
                                + " AND name NOT LIKE 'zabbet\\_%' ESCAPE '\\'");
            }
            statement.execute("PRAGMA foreign_keys = ON");
        }
    }

    @Override
    public boolean lock(Connection connection, DatabaseIdentity place) throws SQLException {
        return place.inThisProcess() || FileLease.take(place.database());
    }
}
