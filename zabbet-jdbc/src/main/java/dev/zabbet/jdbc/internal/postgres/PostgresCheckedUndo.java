package dev.zabbet.jdbc.internal.postgres;

import dev.zabbet.jdbc.internal.dialect.Journal.Stretch;
import dev.zabbet.jdbc.internal.dialect.NetEffect;
import dev.zabbet.jdbc.internal.dialect.SchemaDraft;
import dev.zabbet.jdbc.internal.dialect.Transactions;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Generation;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.TableNature.Form;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.postgresql.util.PSQLException;
import org.postgresql.util.ServerErrorMessage;

/**
 * Undoes on PostgreSQL for an owner who may not leave references unchecked. All tables are brought back in one statement,
 * since references are checked, and their actions run, only at its end: rows that were added are deleted, those that were
 * changed are set back (not deleted, which would take their children along), those that were removed are stored again.
 * The application's own triggers are off meanwhile.
 */
final class PostgresCheckedUndo {
    private static final String UNIQUE_VIOLATION = "23505";

    private final PostgresDialect dialect;
    private final PostgresJournal journal;
    private final Connection connection;

    PostgresCheckedUndo(PostgresDialect dialect, PostgresJournal journal, Connection connection) {
        this.dialect = dialect;
        this.journal = journal;
        this.connection = connection;
    }

    /** Rows that swapped unique values stand in each other's way; then that index is left away and made again. */
    void run(Map<Table, NetEffect.Undo> undo, Stretch stretch) throws SQLException {
        Map<String, String> indexes = new LinkedHashMap<>();
        while (true) {
            try {
                attempt(undo, stretch, indexes);
                return;
            } catch (PSQLException e) {
                ServerErrorMessage error = e.getServerErrorMessage();
                if (!UNIQUE_VIOLATION.equals(e.getSQLState())
                        || error == null
                        || error.getConstraint() == null
                        || !addIndex(error, indexes)) {
                    throw e;
                }
            }
        }
    }

    /** Adds what takes an index away, with what brings it back; false if it is among them or not found. */
    private boolean addIndex(ServerErrorMessage error, Map<String, String> indexes) throws SQLException {
        int before = indexes.size();
        try (PreparedStatement find = connection.prepareStatement(
                "SELECT CASE WHEN c.oid IS NULL THEN 'DROP INDEX ' || i.indexrelid::regclass ELSE 'ALTER TABLE ' ||"
                        + " i.indrelid::regclass || ' DROP CONSTRAINT ' || quote_ident(c.conname) END, CASE WHEN c.oid IS"
                        + " NULL THEN pg_get_indexdef(i.indexrelid) ELSE 'ALTER TABLE ' || i.indrelid::regclass || ' ADD"
                        + " CONSTRAINT ' || quote_ident(c.conname) || ' ' || pg_get_constraintdef(c.oid) END FROM pg_index"
                        + " i LEFT JOIN pg_constraint c ON c.conindid = i.indexrelid AND c.conrelid = i.indrelid"
                        + " AND c.contype IN ('u', 'p') WHERE i.indexrelid = to_regclass(?)")) {
            find.setString(1, dialect.quote(error.getSchema()) + "." + dialect.quote(error.getConstraint()));
            try (ResultSet rows = find.executeQuery()) {
                if (rows.next()) {
                    indexes.put(rows.getString(1), rows.getString(2));
                }
            }
        }
        return indexes.size() > before;
    }

    private void attempt(Map<Table, NetEffect.Undo> undo, Stretch stretch, Map<String, String> indexes)
            throws SQLException {
        Transactions.atomically(connection, () -> takeBack(undo, stretch, indexes));
    }

    private void takeBack(Map<Table, NetEffect.Undo> undo, Stretch stretch, Map<String, String> indexes)
            throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute("SET CONSTRAINTS ALL DEFERRED");
            for (String drop : indexes.keySet()) {
                statement.execute(drop);
            }
            List<String> triggers = applicationTriggers();
            for (String trigger : triggers) {
                statement.execute(trigger.replace("{}", "DISABLE"));
            }
            List<String> parts = new ArrayList<>();
            List<Long> restored = new ArrayList<>();
            for (Map.Entry<Table, NetEffect.Undo> entry : undo.entrySet()) {
                Table table = entry.getKey();
                if (table.keyColumns().isEmpty()) {
                    if (!entry.getValue().toTakeAway.isEmpty()) {
                        journal.takeAway(connection, table, entry.getValue().toTakeAway);
                    }
                } else {
                    entry.getValue().toRestore.forEach(event -> restored.add(event.number()));
                    parts.add(part(table, parts.size(), stretch.after()));
                }
            }
            if (!parts.isEmpty()) {
                String sql =
                        "WITH wanted AS MATERIALIZED (SELECT number, tab, before FROM zabbet.journal WHERE number = ANY(?)), "
                                + String.join(", ", parts) + " SELECT 1";
                try (PreparedStatement all = connection.prepareStatement(sql)) {
                    all.setArray(1, connection.createArrayOf("bigint", restored.toArray()));
                    all.execute();
                }
            }
            for (Map.Entry<Table, NetEffect.Undo> entry : undo.entrySet()) {
                if (entry.getKey().keyColumns().isEmpty()
                        && !entry.getValue().toRestore.isEmpty()) {
                    journal.restore(connection, entry.getKey(), entry.getValue().toRestore);
                }
            }
            statement.execute("SET CONSTRAINTS ALL IMMEDIATE"); // no trigger is switched while checks are open
            for (String trigger : triggers) {
                statement.execute(trigger.replace("{}", "ENABLE"));
            }
            for (String create : indexes.values()) {
                statement.execute(create);
            }
            journal.forget(connection, stretch);
        }
    }

    /** Returns statements that switch the triggers of the application that are on, with {} for what to do. */
    private List<String> applicationTriggers() throws SQLException {
        List<String> triggers = new ArrayList<>();
        SchemaDraft.each(
                connection,
                "SELECT 'ALTER TABLE ' || t.tgrelid::regclass || ' {} ' || CASE t.tgenabled WHEN 'A' THEN 'ALWAYS ' ELSE '' END"
                        + " || 'TRIGGER ' || quote_ident(t.tgname) FROM pg_trigger t JOIN pg_class c ON c.oid = t.tgrelid"
                        + " WHERE NOT t.tgisinternal AND t.tgparentid = 0 AND t.tgenabled IN ('O', 'A')"
                        + " AND t.tgname NOT IN ('!zabbet_row', '!zabbet_truncate')",
                rows -> triggers.add(rows.getString(1)));
        return triggers;
    }

    private String part(Table table, int number, long after) throws SQLException {
        List<Column> columns =
                table.columns().stream().filter(c -> !c.isComputed()).toList();
        List<Column> key = table.keyColumns().stream().map(table::requireColumn).toList();
        List<Column> set = columns.stream()
                .filter(c -> c.generation() != Generation.IDENTITY_ALWAYS)
                .toList();
        Map<Long, String> types = types(table, after);
        String rows = types.entrySet().stream()
                .map(type -> "SELECT " + names(columns, c -> "(r)." + quoted(c)) + " FROM (SELECT before::"
                        + type.getValue() + " AS r FROM wanted WHERE tab = " + type.getKey() + " OFFSET 0) images")
                .collect(Collectors.joining(" UNION ALL "));
        String touched = types.entrySet().stream()
                .flatMap(type -> List.of("before", "after").stream()
                        .map(image -> "SELECT " + names(key, c -> "(r)." + quoted(c)) + " FROM (SELECT " + image + "::"
                                + type.getValue() + " AS r FROM zabbet.journal WHERE number > " + after + " AND tab = "
                                + type.getKey() + " AND " + image + " IS NOT NULL OFFSET 0) images"))
                .collect(Collectors.joining(" UNION "));
        String name = dialect.nameToRead(table);
        String n = String.valueOf(number);
        StringBuilder sql = new StringBuilder();
        sql.append(
                "rows_" + n + " AS MATERIALIZED (" + rows + "), touched_" + n + " AS MATERIALIZED (" + touched + "), ");
        sql.append("deleted_" + n + " AS (DELETE FROM " + name + " t USING touched_" + n + " k WHERE "
                + same(key, "t", "k") + " AND NOT EXISTS (SELECT 1 FROM rows_" + n + " r WHERE " + same(key, "t", "r")
                + ") RETURNING 1), ");
        // Counting what came before makes it happen before: unique values are free then.
        sql.append("updated_" + n + " AS (UPDATE " + name + " t SET "
                + names(set, c -> quoted(c) + " = r." + quoted(c)) + " FROM rows_" + n
                + " r, (SELECT count(*) FROM deleted_" + n + ") done WHERE " + same(key, "t", "r")
                + " RETURNING 1), ");
        sql.append("stored_" + n + " AS (INSERT INTO " + dialect.name(table) + " (" + names(columns, this::quoted)
                + ")" + dialect.overriding(table) + " SELECT " + names(columns, c -> "r." + quoted(c)) + " FROM rows_"
                + n + " r, (SELECT count(*) FROM updated_" + n + ") done WHERE NOT EXISTS (SELECT 1 FROM " + name
                + " t WHERE " + same(key, "t", "r") + "))");
        return sql.toString();
    }

    /** Returns the parts of a table that events speak of, and their row types. */
    private Map<Long, String> types(Table table, long after) throws SQLException {
        Map<Long, String> types = new HashMap<>();
        String whole = dialect.name(table).replace("'", "''");
        String part = table.nature().form() == Form.PARTITIONED
                ? "pg_partition_root(j.tab) = '" + whole + "'::regclass"
                : "j.tab = '" + whole + "'::regclass";
        SchemaDraft.each(
                connection,
                "SELECT DISTINCT j.tab, " + PostgresUndo.ROW_TYPE + " FROM zabbet.journal j WHERE j.number > " + after
                        + " AND " + part,
                rows -> types.put(rows.getLong(1), rows.getString(2)));
        return types;
    }

    private String quoted(Column column) {
        return dialect.quote(column.sqlName());
    }

    private static String names(List<Column> columns, Function<Column, String> shape) {
        return columns.stream().map(shape).collect(Collectors.joining(", "));
    }

    private String same(List<Column> key, String left, String right) {
        return key.stream()
                .map(c -> left + "." + quoted(c) + " = " + right + "." + quoted(c))
                .collect(Collectors.joining(" AND "));
    }
}
