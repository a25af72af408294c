package dev.zabbet.jdbc;

import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.stream.Collectors;
import javax.sql.DataSource;

/** Random tables that refer to each other, with columns of every type an engine has, and random statements on them. */
final class RandomTables {
    private final Engine engine;
    private final List<String> schemas;
    private final List<T> tables = new ArrayList<>();

    private record C(String name, String type, List<String> literals) {}

    private static final class T {
        String name;
        boolean numbered;
        boolean keyed;
        boolean textKey;
        final List<C> columns = new ArrayList<>();
        final List<String> extra = new ArrayList<>();
    }

    RandomTables(Engine engine, Random random) {
        this(engine, random, List.of());
    }

    /** @param schemas names of schemas that the tables are in; empty if all are in the current one */
    RandomTables(Engine engine, Random random, List<String> schemas) {
        this.engine = engine;
        this.schemas = schemas;
        int count = 3 + random.nextInt(4);
        for (int i = 0; i < count; i++) {
            tables.add(table(i, random));
        }
    }

    private T table(int number, Random random) {
        T table = new T();
        table.name = (schemas.isEmpty() ? "" : schemas.get(random.nextInt(schemas.size())) + ".") + "t" + number;
        int key = random.nextInt(5);
        table.numbered = key <= 2;
        table.textKey = key == 3;
        table.keyed = key <= 3;
        List<C> types = types();
        for (int i = 0; i < 1 + random.nextInt(4); i++) {
            C type = types.get(random.nextInt(types.size()));
            table.columns.add(new C("c" + i, type.type(), type.literals()));
        }
        for (int to = 0; to <= number; to++) {
            boolean referable = to == number ? table.numbered : tables.get(to).numbered;
            if (referable && random.nextInt(to == number ? 4 : 2) == 0) {
                String name = "r" + to;
                boolean nullable = to == number || random.nextInt(2) == 0;
                String action;
                if (nullable && random.nextInt(2) == 0) {
                    action = "SET NULL";
                } else if (random.nextInt(4) == 0) {
                    action = "";
                } else {
                    action = "CASCADE";
                }
                table.columns.add(
                        new C(name, "BIGINT" + (nullable ? "" : " NOT NULL"), List.of("1", "2", "3", "4", "5")));
                table.extra.add("FOREIGN KEY (" + name + ") REFERENCES " + (to == number ? table : tables.get(to)).name
                        + " (id)"
                        + (action.isEmpty() ? "" : " ON DELETE " + action)
                        + (random.nextInt(2) == 0 ? " ON UPDATE CASCADE" : ""));
            }
        }
        if (random.nextInt(3) == 0) {
            table.columns.add(new C("u", "INT", List.of("1", "2", "3", "4", "5", "6", "7", "8", "NULL")));
            table.extra.add("UNIQUE (u)");
        }
        return table;
    }

    private List<C> types() {
        List<C> types = new ArrayList<>(List.of(
                new C("", "INT", List.of("1", "-7", "NULL", "2147483647")),
                new C("", "VARCHAR(30)", List.of("'a'", "'b '''", "''", "NULL", "'äöü 山'")),
                new C("", "DECIMAL(10, 3)", List.of("1.5", "-99999.125", "0")),
                new C("", "DATE", List.of("'2031-07-01'", "'1899-12-31'", "NULL")),
                new C("", engine == Engine.MARIADB ? "DOUBLE" : "DOUBLE PRECISION", List.of("0.1", "1e10", "-3.25"))));
        switch (engine) {
            case H2 ->
                types.addAll(List.of(
                        new C("", "JSON", List.of("JSON '{\"a\": [1, null]}'", "JSON '[]'")),
                        new C("", "VARBINARY(20)", List.of("X'00ff'", "X''")),
                        new C("", "UUID", List.of("'00000000-0000-4000-8000-000000000001'", "NULL")),
                        new C("", "INTERVAL DAY TO SECOND", List.of("INTERVAL '1 02:03:04.5' DAY TO SECOND")),
                        new C("", "INT ARRAY", List.of("ARRAY[1, 2]", "ARRAY[]", "NULL")),
                        new C("", "TIMESTAMP(9)", List.of("'2031-03-30 02:30:00.123456789'", "'0001-01-01 00:00:00'")),
                        new C("", "TIMESTAMP WITH TIME ZONE", List.of("'2031-03-30 02:30:00+02:00'")),
                        new C("", "TIME(9)", List.of("'23:59:59.999999999'")),
                        new C("", "ENUM('A', 'B')", List.of("'A'", "'B'")),
                        new C("", "CHAR(5)", List.of("'x'", "'abcde'")),
                        new C("", "BOOLEAN", List.of("TRUE", "FALSE"))));
            case SQLITE ->
                types.addAll(List.of(
                        new C("", "BLOB", List.of("X'00ff'", "'text in a blob'", "1.5")),
                        new C("", "INTEGER", List.of("'not a number'", "9007199254740993", "1.5")),
                        new C("", "TIMESTAMP", List.of("'2031-03-30 02:30:00.123'", "1927968000000"))));
            case POSTGRES ->
                types.addAll(List.of(
                        new C("", "jsonb", List.of("'{\"a\": [1, null]}'", "'3'")),
                        new C("", "bytea", List.of("'\\x00ff'", "''")),
                        new C("", "uuid", List.of("'00000000-0000-4000-8000-000000000001'", "NULL")),
                        new C("", "int[]", List.of("'{1,NULL,3}'", "'{}'", "'[2:3]={7,8}'", "'{{1,2},{3,4}}'")),
                        new C("", "inet", List.of("'10.0.0.1/8'", "'::1'")),
                        new C("", "interval", List.of("'1 mon -2 days 03:04:05.678901'")),
                        new C("", "numeric", List.of("'NaN'", "1e-30", "123456789012345678901234567890.5")),
                        new C("", "real", List.of("0.1", "'Infinity'", "3.4e38")),
                        new C("", "timestamptz", List.of("'2031-03-30 02:30:00.123456+02'", "'infinity'")),
                        new C("", "time", List.of("'23:59:59.999999'")),
                        new C("", "tstzrange", List.of("'[2031-01-01 00:00+00,)'", "'empty'")),
                        new C("", "char(5)", List.of("'x'", "'abcde'")),
                        new C("", "bit varying(9)", List.of("B'101'", "B''")),
                        new C("", "boolean", List.of("TRUE", "FALSE"))));
            case MARIADB ->
                types.addAll(List.of(
                        new C("", "JSON", List.of("'{\"a\": [1, null]}'", "'3'")),
                        new C("", "VARBINARY(20)", List.of("X'00ff'", "X''")),
                        new C("", "UUID", List.of("'00000000-0000-4000-8000-000000000001'", "NULL")),
                        new C("", "DATETIME(6)", List.of("'2031-03-30 02:30:00.123456'", "'1000-01-01 00:00:00'")),
                        new C("", "TIME(3)", List.of("'23:59:59.999'", "'-100:00:00'")),
                        new C("", "ENUM('A', 'B')", List.of("'A'", "'B'")),
                        new C("", "SET('p', 'q')", List.of("'p,q'", "''")),
                        new C("", "BIT(5)", List.of("b'10101'")),
                        new C("", "YEAR", List.of("2031")),
                        new C("", "BIGINT UNSIGNED", List.of("18446744073709551615", "0")),
                        new C("", "FLOAT", List.of("0.1", "1e10")),
                        new C("", "INET6", List.of("'::1'")),
                        new C("", "CHAR(5)", List.of("'x'", "'abcde'"))));
        }
        return types;
    }

    String ddl() {
        StringBuilder ddl = new StringBuilder();
        for (T table : tables) {
            List<String> parts = new ArrayList<>();
            if (table.numbered) {
                parts.add("id ${id}");
            } else if (table.textKey) {
                parts.add("id VARCHAR(20) NOT NULL PRIMARY KEY");
            }
            table.columns.forEach(c -> parts.add(c.name() + " " + c.type()));
            parts.addAll(table.extra);
            ddl.append("CREATE TABLE ")
                    .append(table.name)
                    .append(" (")
                    .append(String.join(", ", parts))
                    .append(");\n");
        }
        return ddl.toString();
    }

    void prepare(Statement statement) throws SQLException {
        switch (engine) {
            case POSTGRES -> statement.execute("SET lock_timeout = 400");
            case MARIADB -> statement.execute("SET innodb_lock_wait_timeout = 1");
            default -> {}
        }
    }

    String statement(Random random) {
        T table = tables.get(random.nextInt(tables.size()));
        List<C> columns = table.columns;
        C one = columns.get(random.nextInt(columns.size()));
        String where;
        if (table.keyed && random.nextInt(4) > 0) {
            where = " WHERE id " + (random.nextInt(4) == 0 ? "<> " : "= ") + key(table, random);
        } else if (one.literals().get(0).startsWith("JSON") || one.type().startsWith("json")) {
            where = "";
        } else {
            where = where(one, random);
        }
        switch (random.nextInt(10)) {
            case 0, 1:
                return "DELETE FROM " + table.name + where;
            case 2, 3, 4:
                return "UPDATE " + table.name + " SET " + one.name() + " = " + literal(one, random) + where;
            case 5:
                return table.keyed
                        ? "UPDATE " + table.name + " SET id = " + key(table, random) + " WHERE id = "
                                + key(table, random)
                        : insert(table, random, "INSERT", "");
            case 6:
                return upsert(table, random);
            default:
                return insert(table, random, "INSERT", "");
        }
    }

    private String upsert(T table, Random random) {
        C one = table.columns.get(0);
        if (!table.keyed) {
            return insert(table, random, "INSERT", "");
        }
        String set = one.name() + " = " + literal(one, random);
        return switch (engine) {
            case H2 ->
                insert(table, random, "MERGE", "")
                        .replace("MERGE INTO " + table.name + " (", "MERGE INTO " + table.name + " (");
            case SQLITE ->
                random.nextBoolean()
                        ? insert(table, random, "INSERT OR REPLACE", "")
                        : insert(table, random, "INSERT", " ON CONFLICT (id) DO UPDATE SET " + set);
            case POSTGRES -> insert(table, random, "INSERT", " ON CONFLICT (id) DO UPDATE SET " + set);
            case MARIADB ->
                random.nextBoolean()
                        ? insert(table, random, "REPLACE", "")
                        : insert(table, random, "INSERT", " ON DUPLICATE KEY UPDATE " + set);
        };
    }

    private String insert(T table, Random random, String verb, String end) {
        boolean withKey = table.textKey || (table.numbered && (!verb.equals("INSERT") || random.nextInt(3) == 0));
        List<String> names = new ArrayList<>(table.columns.stream().map(C::name).toList());
        List<String> values = new ArrayList<>(
                table.columns.stream().map(c -> literal(c, random)).toList());
        if (withKey) {
            names.add(0, "id");
            values.add(0, key(table, random));
        }
        return verb + " INTO " + table.name + " (" + String.join(", ", names) + ") VALUES (" + String.join(", ", values)
                + ")" + end;
    }

    private static String key(T table, Random random) {
        int number = 1 + random.nextInt(9);
        return table.textKey ? "'k" + number + "'" : String.valueOf(number);
    }

    private static String literal(C column, Random random) {
        return column.literals().get(random.nextInt(column.literals().size()));
    }

    private static String where(C column, Random random) {
        String literal = literal(column, random);
        return " WHERE " + column.name() + (literal.equals("NULL") ? " IS NULL" : " = " + literal);
    }

    /** The counters as the database's own catalog shows them. */
    Map<String, String> counters(DataSource database) throws SQLException {
        String sql =
                switch (engine) {
                    case H2 ->
                        "SELECT TABLE_NAME, IDENTITY_BASE FROM INFORMATION_SCHEMA.COLUMNS WHERE IDENTITY_BASE IS NOT NULL"
                                + " AND TABLE_SCHEMA IN ('PUBLIC', 'BESIDE')";
                    case SQLITE -> "SELECT name, seq FROM sqlite_sequence WHERE name NOT LIKE 'zabbet%' AND seq > 0";
                    case POSTGRES ->
                        "SELECT sequencename, (xpath('/row/n/text()', query_to_xml('SELECT last_value + is_called::int AS n"
                                + " FROM ' || schemaname || '.' || sequencename, false, true, '')))[1]::text FROM pg_sequences"
                                + " WHERE schemaname IN ('public', 'beside')";
                    case MARIADB ->
                        "SELECT TABLE_NAME, AUTO_INCREMENT FROM information_schema.TABLES WHERE TABLE_SCHEMA ="
                                + " DATABASE() AND TABLE_NAME NOT LIKE 'zabbet%' AND AUTO_INCREMENT IS NOT NULL";
                };
        Map<String, String> counters = new LinkedHashMap<>();
        try (Connection connection = database.getConnection();
                Statement statement = connection.createStatement();
                ResultSet rows = statement.executeQuery(sql)) {
            while (rows.next()) {
                counters.put(rows.getString(1), rows.getString(2));
            }
        }
        return counters.entrySet().stream()
                .sorted(Map.Entry.comparingByKey())
                .collect(Collectors.toMap(Map.Entry::getKey, Map.Entry::getValue, (a, b) -> a, LinkedHashMap::new));
    }
}
