package dev.zabbet.jdbc.internal.mariadb;

import dev.zabbet.jdbc.internal.dialect.SchemaDraft;
import dev.zabbet.jdbc.internal.dialect.SchemaDraft.TableDraft;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Generation;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.UniqueKey;
import dev.zabbet.type.DataType;
import dev.zabbet.type.Kind;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * Reads the tables of the current MariaDB database, and of others that references lead to, from information_schema: one
 * query for each kind of thing, and database.
 */
final class MariaDbSchemaReader {
    private static final Pattern LABEL = Pattern.compile("'((?:[^']|'')*)'");
    private static final Pattern NEXT_VALUE = Pattern.compile("nextval\\(`((?:[^`]|``)*)`\\.`((?:[^`]|``)*)`\\)");
    private static final Pattern JSON_CHECK = Pattern.compile("json_valid\\(`([^`]+)`\\)");

    /** Engines that keep no rows themselves (MariaDB's manual, "Storage engines"). */
    private static final Set<String> ELSEWHERE = Set.of("MRG_MYISAM", "MERGE", "FEDERATED", "CONNECT", "SPIDER");

    private final Connection connection;
    private final SchemaDraft draft = new SchemaDraft(false);
    private final Set<String> json = new HashSet<>();
    private MariaDbDatabases databases = new MariaDbDatabases(List.of());

    MariaDbSchemaReader(Connection connection) {
        this.connection = connection;
    }

    Schema read() throws SQLException {
        MariaDbDatabases home = MariaDbDatabases.current(connection);
        databases = home;
        readTables(home.home());
        Map<String, List<String[]>> targets = new LinkedHashMap<>();
        for (int i = 0; i < databases.names().size(); i++) {
            readTargets(databases.names().get(i), targets);
        }
        Map<String, List<Check>> checks = new LinkedHashMap<>();
        each(
                "SELECT CONSTRAINT_SCHEMA, TABLE_NAME, CONSTRAINT_NAME, CHECK_CLAUSE FROM information_schema.CHECK_CONSTRAINTS"
                        + " WHERE CONSTRAINT_SCHEMA = DATABASE() ORDER BY CONSTRAINT_NAME",
                rows -> {
                    String table = id(rows.getString(1), rows.getString(2));
                    Matcher valid = JSON_CHECK.matcher(rows.getString(4));
                    if (valid.matches()) {
                        json.add(table + "." + valid.group(1));
                    } else {
                        checks.computeIfAbsent(table, t -> new ArrayList<>())
                                .add(new Check(rows.getString(3), rows.getString(4)));
                    }
                });
        readColumns();
        checks.forEach((table, all) -> draft.find(table).ifPresent(t -> t.checks.addAll(all)));
        readParts();
        readKeys();
        readReferences(targets);
        for (MariaDbCatalog.Trigger trigger : MariaDbCatalog.of(connection).triggers(connection, databases)) {
            String table = id(trigger.database(), trigger.table());
            if (!trigger.isOurs() && draft.has(table)) {
                draft.require(table).triggers.add(trigger.name());
            }
        }
        return draft.schema();
    }

    private void readTables(String database) throws SQLException {
        boolean current = database.equals(databases.home());
        SchemaDraft.each(
                connection,
                MariaDbDatabases.in(
                        database,
                        "SELECT TABLE_NAME, ENGINE FROM information_schema.TABLES WHERE TABLE_SCHEMA = DATABASE()"
                                + " AND TABLE_TYPE IN ('BASE TABLE', 'SYSTEM VERSIONED') AND TABLE_NAME NOT LIKE"
                                + " 'zabbet\\_%' ORDER BY TABLE_NAME"),
                rows -> {
                    String id = id(database, rows.getString(1));
                    draft.add(id, database, rows.getString(1), current);
                    if (ELSEWHERE.contains(String.valueOf(rows.getString(2)).toUpperCase(Locale.ROOT))) {
                        draft.leaveOut(
                                id,
                                rows.getString(1),
                                "its engine is " + rows.getString(2) + ", whose rows are in other tables or databases");
                    }
                });
    }

    /** Reads where references lead to; a database that is new is looked into as well. */
    private void readTargets(String database, Map<String, List<String[]>> targets) throws SQLException {
        SchemaDraft.each(
                connection,
                MariaDbDatabases.in(
                        database,
                        "SELECT TABLE_NAME, CONSTRAINT_NAME, COLUMN_NAME, REFERENCED_TABLE_NAME, REFERENCED_COLUMN_NAME,"
                                + " REFERENCED_TABLE_SCHEMA FROM information_schema.KEY_COLUMN_USAGE WHERE TABLE_SCHEMA ="
                                + " DATABASE() AND REFERENCED_TABLE_SCHEMA IS NOT NULL"
                                + " ORDER BY TABLE_NAME, CONSTRAINT_NAME, ORDINAL_POSITION"),
                rows -> targets.computeIfAbsent(
                                id(database, rows.getString(1)) + SchemaDraft.BETWEEN + rows.getString(2),
                                k -> new ArrayList<>())
                        .add(new String[] {
                            rows.getString(3),
                            id(rows.getString(6), rows.getString(4)),
                            rows.getString(5),
                            rows.getString(6)
                        }));
        for (List<String[]> target : targets.values()) {
            String there = target.get(0)[3];
            if (!databases.names().contains(there)) {
                databases = databases.and(there);
                readTables(there);
            }
        }
    }

    private static String id(String database, String table) {
        return database + SchemaDraft.BETWEEN + table;
    }

    /** What the parts of a table take is a condition on its rows, like a check. */
    private void readParts() throws SQLException {
        Map<String, List<String>> lists = new LinkedHashMap<>();
        Map<String, String> ranges = new LinkedHashMap<>();
        each(
                "SELECT TABLE_NAME, PARTITION_METHOD, PARTITION_EXPRESSION, PARTITION_DESCRIPTION, TABLE_SCHEMA FROM"
                        + " information_schema.PARTITIONS WHERE TABLE_SCHEMA = DATABASE() AND PARTITION_METHOD IS NOT NULL"
                        + " ORDER BY TABLE_NAME, PARTITION_ORDINAL_POSITION",
                rows -> {
                    String table = id(rows.getString(5), rows.getString(1));
                    String method = rows.getString(2);
                    String least = rows.getString(3);
                    String bound = String.valueOf(rows.getString(4));
                    if (method.startsWith("RANGE") && !least.contains(",")) {
                        ranges.put(table, bound.equals("MAXVALUE") ? "" : "(" + least + ") < " + bound);
                    } else if (method.startsWith("LIST") && !least.contains(",")) {
                        lists.computeIfAbsent(table, t -> new ArrayList<>(List.of(least)))
                                .add(bound);
                    }
                });
        ranges.forEach((table, condition) -> draft.find(table)
                .filter(t -> !condition.isEmpty())
                .ifPresent(t -> t.checks.add(new Check("partitions", condition))));
        lists.forEach((table, parts) -> draft.find(table)
                .filter(t -> !parts.contains("DEFAULT"))
                .ifPresent(t -> t.checks.add(new Check(
                        "partitions",
                        "(" + parts.get(0) + ") IN (" + String.join(", ", parts.subList(1, parts.size())) + ")"))));
    }

    private void readColumns() throws SQLException {
        each(
                "SELECT TABLE_NAME, COLUMN_NAME, DATA_TYPE, COLUMN_TYPE, CHARACTER_MAXIMUM_LENGTH, NUMERIC_PRECISION,"
                        + " NUMERIC_SCALE, DATETIME_PRECISION, IS_NULLABLE, COLUMN_DEFAULT, EXTRA, GENERATION_EXPRESSION, TABLE_SCHEMA"
                        + " FROM information_schema.COLUMNS WHERE TABLE_SCHEMA = DATABASE()"
                        + " ORDER BY TABLE_NAME, ORDINAL_POSITION",
                rows -> {
                    String table = id(rows.getString(13), rows.getString(1));
                    if (!draft.has(table)) {
                        return;
                    }
                    boolean numbered = rows.getString(11).contains("auto_increment");
                    String defaultText = rows.getString(12) == null ? rows.getString(10) : rows.getString(12);
                    Matcher next = NEXT_VALUE.matcher(defaultText == null ? "" : defaultText);
                    String sequence = rows.getString(12) == null && next.matches() ? sequence(next) : null;
                    Generation generation;
                    if (rows.getString(12) != null) {
                        generation = Generation.COMPUTED;
                    } else if (sequence != null) {
                        generation = Generation.SEQUENCE;
                    } else if (numbered) {
                        generation = Generation.IDENTITY;
                    } else {
                        generation = Generation.NONE;
                    }
                    draft.require(table)
                            .column(
                                    rows.getString(2),
                                    type(table, rows),
                                    rows.getString(9).equals("YES"),
                                    "NULL".equalsIgnoreCase(defaultText) || sequence != null ? null : defaultText,
                                    generation,
                                    sequence);
                });
    }

    private String sequence(Matcher next) {
        boolean isHere = next.group(1).replace("``", "`").equals(databases.home());
        return (isHere ? "" : "`" + next.group(1) + "`.") + "`" + next.group(2) + "`";
    }

    private DataType type(String table, ResultSet rows) throws SQLException {
        String shown = rows.getString(4);
        String name = rows.getString(3).toLowerCase(Locale.ROOT);
        DataType type = type(name, shown, rows);
        if (json.contains(table + "." + rows.getString(2))) {
            return DataType.of(Kind.JSON, "json");
        }
        return shown.contains("unsigned") && type.kind() == Kind.INTEGER ? type.withoutSign() : type;
    }

    private static DataType type(String name, String shown, ResultSet rows) throws SQLException {
        int length = limit(rows, 5);
        int fraction = Math.max(0, limit(rows, 8));
        return switch (name) {
            case "tinyint" -> DataType.precise(Kind.INTEGER, shown, 8, 0);
            case "smallint" -> DataType.precise(Kind.INTEGER, shown, 16, 0);
            case "mediumint" -> DataType.precise(Kind.INTEGER, shown, 24, 0);
            case "int" -> DataType.precise(Kind.INTEGER, shown, 32, 0);
            case "bigint" -> DataType.precise(Kind.INTEGER, shown, 64, 0);
            case "year" -> DataType.precise(Kind.INTEGER, shown, 16, 0);
            case "decimal" -> DataType.precise(Kind.DECIMAL, shown, rows.getInt(6), rows.getInt(7));
            case "float", "double" -> DataType.of(Kind.FLOAT, shown);
            case "char" -> DataType.sized(Kind.FIXED_TEXT, shown, length);
            case "varchar", "tinytext", "text", "mediumtext", "longtext" -> DataType.sized(Kind.TEXT, shown, length);
            case "binary", "varbinary", "tinyblob", "blob", "mediumblob", "longblob" ->
                DataType.sized(Kind.BYTES, shown, length);
            case "date" -> DataType.of(Kind.DATE, shown);
            case "time" -> DataType.precise(Kind.TIME, shown, fraction, 0);
            case "datetime", "timestamp" -> DataType.precise(Kind.TIMESTAMP, shown, fraction, 0);
            case "uuid" -> DataType.of(Kind.UUID, shown);
            case "enum" -> DataType.labelled(shown, labels(shown));
            case "bit" -> shown.equals("bit(1)") ? DataType.of(Kind.BOOLEAN, shown) : DataType.of(Kind.OTHER, shown);
            default -> DataType.of(Kind.OTHER, shown);
        };
    }

    private static List<String> labels(String shown) {
        List<String> labels = new ArrayList<>();
        Matcher label = LABEL.matcher(shown);
        while (label.find()) {
            labels.add(label.group(1).replace("''", "'"));
        }
        return labels;
    }

    private void readKeys() throws SQLException {
        Map<String, List<String[]>> keys = new LinkedHashMap<>();
        each(
                "SELECT TABLE_NAME, INDEX_NAME, COLUMN_NAME, SUB_PART, TABLE_SCHEMA FROM information_schema.STATISTICS WHERE TABLE_SCHEMA ="
                        + " DATABASE() AND NON_UNIQUE = 0 ORDER BY TABLE_NAME, INDEX_NAME, SEQ_IN_INDEX",
                rows -> keys.computeIfAbsent(
                                id(rows.getString(5), rows.getString(1)) + SchemaDraft.BETWEEN + rows.getString(2),
                                k -> new ArrayList<>())
                        .add(new String[] {rows.getString(3), rows.getString(4)}));
        keys.forEach((place, keyParts) -> {
            String[] parts = place.split(SchemaDraft.BETWEEN);
            draft.find(id(parts[0], parts[1])).ifPresent(table -> {
                List<String> columns = new ArrayList<>();
                List<String> beginnings = new ArrayList<>();
                for (String[] part : keyParts) {
                    if (part[1] == null) {
                        columns.add(table.shown(part[0]));
                    } else { // the key looks at the first characters only
                        beginnings.add("left(`" + part[0].replace("`", "``") + "`, " + part[1] + ")");
                    }
                }
                UniqueKey key = new UniqueKey(parts[2], columns, beginnings, Optional.empty());
                if (parts[2].equals("PRIMARY")) {
                    table.primaryKey = Optional.of(key);
                } else {
                    table.unique(key);
                }
            });
        });
    }

    /** A user who may only read is not shown what happens when rows that are referred to go; for him that is refused. */
    private void readReferences(Map<String, List<String[]>> targets) throws SQLException {
        Map<String, String[]> actions = new HashMap<>();
        each(
                "SELECT CONSTRAINT_SCHEMA, TABLE_NAME, CONSTRAINT_NAME, UPDATE_RULE, DELETE_RULE FROM"
                        + " information_schema.REFERENTIAL_CONSTRAINTS WHERE CONSTRAINT_SCHEMA = DATABASE()",
                rows -> actions.put(
                        id(rows.getString(1), rows.getString(2)) + SchemaDraft.BETWEEN + rows.getString(3),
                        new String[] {rows.getString(5), rows.getString(4)}));
        new TreeMap<>(targets).forEach((place, parts) -> {
            int end = place.lastIndexOf(SchemaDraft.BETWEEN);
            String table = place.substring(0, end);
            if (!draft.has(table) || !draft.has(parts.get(0)[1])) {
                return;
            }
            TableDraft own = draft.require(table);
            TableDraft target = draft.require(parts.get(0)[1]);
            String[] known = actions.getOrDefault(place, new String[] {"RESTRICT", "RESTRICT"});
            own.references.add(new Reference(
                    place.substring(end + SchemaDraft.BETWEEN.length()),
                    parts.stream().map(p -> own.shown(p[0])).toList(),
                    target.name,
                    parts.stream().map(p -> target.shown(p[2])).toList(),
                    SchemaDraft.action(known[0]),
                    SchemaDraft.action(known[1]),
                    Reference.Match.SIMPLE,
                    Reference.Deferral.NEVER));
        });
    }

    private static int limit(ResultSet rows, int index) throws SQLException {
        long limit = rows.getLong(index);
        return rows.wasNull() || limit > Integer.MAX_VALUE ? DataType.UNLIMITED : (int) limit;
    }

    private void each(String sql, SchemaDraft.RowReader reader) throws SQLException {
        databases.each(connection, sql, reader);
    }
}
