package dev.zabbet.jdbc;

import java.util.ArrayList;
import java.util.List;
import java.util.Random;

/**
 * Random tables with what real ones have: all types, keys of all kinds, checks on one column and on several, references to
 * keys and unique columns, composite, overlapping, to the own table and in circles, defaults, partial and expression
 * indexes, partitions.
 */
final class RandomSchema {
    private final Engine engine;
    private final Random random;
    private final StringBuilder before = new StringBuilder();
    private final StringBuilder ddl = new StringBuilder();
    private final StringBuilder after = new StringBuilder();
    private final List<Made> made = new ArrayList<>();

    /** A table that others may refer to: by these columns, of these types. */
    private record Made(String name, List<String> key, List<String> types) {}

    RandomSchema(Engine engine, Random random) {
        this.engine = engine;
        this.random = random;
    }

    String ddl() {
        if (engine == Engine.POSTGRES) {
            before.append("CREATE TYPE mood AS ENUM ('calm', 'windy', 'wet');\n");
            before.append("CREATE DOMAIN percent AS int CHECK (VALUE BETWEEN 0 AND 100);\n");
            before.append("CREATE DOMAIN code AS varchar(8) NOT NULL CHECK (VALUE ~ '^[A-Z]{2}-[0-9]+$');\n");
        }
        int tables = Integer.getInteger("zabbet.tables", 5 + random.nextInt(one(4) ? 36 : 12));
        for (int i = 0; i < tables; i++) {
            table(i);
        }
        return before.toString() + ddl + after;
    }

    private boolean one(int in) {
        return random.nextInt(in) == 0;
    }

    private String pick(String... choices) {
        return choices[random.nextInt(choices.length)];
    }

    private void table(int i) {
        String name = one(8) ? quoted("Order " + i) : one(12) ? quoted("select" + i) : "t" + i;
        List<String> parts = new ArrayList<>();
        List<String> ends = new ArrayList<>();
        List<String> key = new ArrayList<>();
        List<String> types = new ArrayList<>();
        key(parts, ends, key, types);
        for (int c = random.nextInt(6); c >= 0; c--) {
            column("c" + c, parts);
        }
        if (one(2)) {
            tiedColumns(parts, ends);
        }
        for (int r = random.nextInt(4); r > 0 && !made.isEmpty(); r--) {
            reference("r" + r, parts, ends);
        }
        if (key.size() == 1 && one(4)) {
            String required = one(4) ? " NOT NULL" : "";
            parts.add("parent_id " + types.get(0) + required);
            ends.add("FOREIGN KEY (parent_id) REFERENCES " + name + " (" + key.get(0) + ")");
        }
        boolean unique = one(4);
        if (unique) {
            parts.add("nr INT NOT NULL");
            ends.add("UNIQUE (nr)");
        }
        parts.addAll(ends);
        boolean partitioned = engine == Engine.POSTGRES && one(10) && ends.isEmpty() && key.isEmpty();
        ddl.append("CREATE TABLE ")
                .append(name)
                .append(" (")
                .append(String.join(", ", parts))
                .append(")");
        ddl.append(partitioned ? " PARTITION BY RANGE (c0);\n" : ";\n");
        indexes(name, parts);
        circle(name, key, types);
        if (unique && one(2)) {
            made.add(new Made(name, List.of("nr"), List.of("INT")));
        } else if (!key.isEmpty()) {
            made.add(new Made(name, key, types));
        }
    }

    private String quoted(String name) {
        return engine == Engine.MARIADB ? "`" + name + "`" : "\"" + name + "\"";
    }

    private void key(List<String> parts, List<String> ends, List<String> key, List<String> types) {
        switch (random.nextInt(9)) {
            case 0 -> single("VARCHAR(12)", parts, key, types);
            case 1 -> single("INT", parts, key, types);
            case 2 -> single(engine == Engine.SQLITE ? "TEXT" : "CHAR(3)", parts, key, types);
            case 3 -> single(engine == Engine.SQLITE ? "CHAR(36)" : "UUID", parts, key, types);
            case 4 -> {
                parts.add("a INT NOT NULL CHECK (a BETWEEN 1 AND 12)");
                parts.add("b VARCHAR(20) NOT NULL");
                ends.add("PRIMARY KEY (a, b)");
                key.addAll(List.of("a", "b"));
                types.addAll(List.of("INT", "VARCHAR(20)"));
            }
            case 5 -> {
                Made parent = single();
                if (parent == null) {
                    numbered(parts, key, types);
                } else {
                    parts.add("a " + parent.types().get(0) + " NOT NULL");
                    parts.add("pos INT NOT NULL");
                    ends.add("PRIMARY KEY (a, pos)");
                    ends.add("FOREIGN KEY (a) REFERENCES " + parent.name() + " ("
                            + parent.key().get(0) + ")");
                    key.addAll(List.of("a", "pos"));
                    types.addAll(List.of(parent.types().get(0), "INT"));
                }
            }
            default -> numbered(parts, key, types);
        }
    }

    private void single(String type, List<String> parts, List<String> key, List<String> types) {
        parts.add("id " + type + " NOT NULL PRIMARY KEY");
        key.add("id");
        types.add(type);
    }

    private void numbered(List<String> parts, List<String> key, List<String> types) {
        parts.add("id ${id}");
        key.add("id");
        types.add(engine == Engine.SQLITE ? "INTEGER" : "BIGINT");
    }

    private Made single() {
        List<Made> singles = made.stream().filter(m -> m.key().size() == 1).toList();
        return singles.isEmpty() ? null : singles.get(random.nextInt(singles.size()));
    }

    private void reference(String name, List<String> parts, List<String> ends) {
        Made to = made.get(random.nextInt(made.size()));
        boolean required = !one(3);
        List<String> columns = new ArrayList<>();
        for (int k = 0; k < to.key().size(); k++) {
            String column = name + "_" + k;
            boolean byDefault = to.types().get(k).endsWith("INT") && one(5);
            parts.add(
                    column + " " + to.types().get(k) + (byDefault ? " DEFAULT 1" : "") + (required ? " NOT NULL" : ""));
            columns.add(column);
        }
        ends.add("FOREIGN KEY (" + String.join(", ", columns) + ") REFERENCES " + to.name() + " ("
                + String.join(", ", to.key()) + ")");
        if (one(5)) {
            ends.add("UNIQUE (" + String.join(", ", columns) + ")");
        }
        if (to.key().size() == 2 && one(2)) {
            // another reference shares a column with this one
            Made first = made.stream()
                    .filter(m ->
                            m.key().size() == 1 && m.types().equals(to.types().subList(0, 1)))
                    .findFirst()
                    .orElse(null);
            boolean same = first != null
                    && ddl.toString()
                            .lines()
                            .anyMatch(line -> line.startsWith("CREATE TABLE " + to.name() + " (a ")
                                    && line.contains("FOREIGN KEY (a) REFERENCES " + first.name() + " ("));
            if (same) {
                ends.add("FOREIGN KEY (" + columns.get(0) + ") REFERENCES " + first.name() + " ("
                        + first.key().get(0) + ")");
            }
        }
    }

    /** A reference from a table that is there already makes a circle. */
    private void circle(String name, List<String> key, List<String> types) {
        if (!one(6) || made.isEmpty() || key.size() != 1 || engine == Engine.SQLITE) {
            return;
        }
        Made from = made.get(random.nextInt(made.size()));
        after.append("ALTER TABLE ")
                .append(from.name())
                .append(" ADD COLUMN back_")
                .append(name.replaceAll("\\W", ""))
                .append(" ")
                .append(types.get(0))
                .append(";\nALTER TABLE ")
                .append(from.name())
                .append(" ADD FOREIGN KEY (back_")
                .append(name.replaceAll("\\W", ""))
                .append(") REFERENCES ")
                .append(name)
                .append(" (")
                .append(key.get(0))
                .append(");\n");
    }

    private void indexes(String name, List<String> parts) {
        String table = name.replaceAll("\\W", "");
        for (String part : parts) {
            String column = part.split(" ")[0];
            boolean text = part.matches("c\\d VARCHAR\\((1\\d|2\\d|60)\\) NOT NULL.*");
            if (text && one(5) && engine != Engine.MARIADB && engine != Engine.H2) {
                ddl.append("CREATE UNIQUE INDEX ux_")
                        .append(table)
                        .append(column)
                        .append(" ON ")
                        .append(name);
                ddl.append(one(2) ? " (lower(" + column + "))" : " (" + column + ") WHERE " + column + " <> ''")
                        .append(";\n");
            } else if (text && one(6)) {
                ddl.append("CREATE UNIQUE INDEX ux_")
                        .append(table)
                        .append(column)
                        .append(" ON ")
                        .append(name);
                ddl.append(" (").append(column).append(");\n");
            }
        }
    }

    private void column(String name, List<String> parts) {
        String required = one(4) ? "" : " NOT NULL";
        String check = pick(
                name + " INT" + required + " CHECK (" + name + " BETWEEN 4 AND 9)",
                name + " INT" + required + " CHECK (" + name + " > 0 AND " + name + " % 5 = 0)",
                name + " INT" + required + " CHECK (" + name + " < 0 OR " + name + " > 100000)",
                name + " VARCHAR(5)" + required + " CHECK (" + name + " IN ('RED', 'BLUE'))",
                name + " DECIMAL(6, 2)" + required + " CHECK (" + name + " > 0 AND " + name + " <= 10.5)",
                name + " VARCHAR(60)" + required + " CHECK (length(" + name + ") >= 20)",
                name + " VARCHAR(20)" + required + " CHECK (" + name + " LIKE 'A-%' AND length(" + name + ") > 3)",
                name + " VARCHAR(20)" + required + " CHECK (" + name + " = upper(" + name + ") AND " + name + " <> '')",
                name + " VARCHAR(10)" + required + " CHECK (length(trim(" + name + ")) = 4)",
                name + " DATE" + required + " CHECK (" + name + " >= '2001-01-01' AND " + name + " < '2011-01-01')",
                name + " INT" + required + " DEFAULT 7 CHECK (" + name + " <> 8)");
        parts.add(one(3) ? check : name + " " + type(name, required));
    }

    private String type(String name, String required) {
        String common = pick(
                "VARCHAR(" + (3 + random.nextInt(30)) + ")" + required
                        + (one(4) && required.length() > 0 ? " UNIQUE" : ""),
                "VARCHAR(60)" + required,
                "CHAR(4)" + required,
                "DATE" + required,
                "TIMESTAMP" + (required.isEmpty() ? " NULL" : required),
                "SMALLINT" + required,
                "INT" + required + (one(3) ? " UNIQUE" : ""),
                "BIGINT" + required,
                "DECIMAL(12, 3)" + required,
                "NUMERIC(3)" + required,
                "DOUBLE PRECISION" + required,
                "BOOLEAN" + required,
                "INT DEFAULT 7" + required,
                "VARCHAR(10) DEFAULT 'x'" + required);
        return one(2) ? common : special() + required;
    }

    private String special() {
        return switch (engine) {
            case H2 ->
                pick(
                        "UUID",
                        "JSON",
                        "BLOB",
                        "CLOB",
                        "VARBINARY(8)",
                        "TINYINT",
                        "TIME",
                        "TIMESTAMP(9) WITH TIME ZONE",
                        "INTERVAL DAY",
                        "INTERVAL YEAR TO MONTH",
                        "INTEGER ARRAY",
                        "VARCHAR(10) ARRAY[3]",
                        "ENUM('a', 'b')",
                        "DECFLOAT",
                        "REAL",
                        "TIME(3)",
                        "BINARY(4)",
                        "GEOMETRY",
                        "TIME WITH TIME ZONE",
                        "INTERVAL HOUR TO SECOND",
                        "VARCHAR_IGNORECASE(20)");
            case POSTGRES ->
                pick(
                        "uuid",
                        "json",
                        "jsonb",
                        "bytea",
                        "text",
                        "inet",
                        "cidr",
                        "macaddr",
                        "bit(5)",
                        "bit varying(9)",
                        "money",
                        "interval",
                        "int[]",
                        "varchar(9)[]",
                        "mood",
                        "mood[]",
                        "percent",
                        "code",
                        "point",
                        "box",
                        "polygon",
                        "circle",
                        "line",
                        "lseg",
                        "path",
                        "int4range",
                        "tstzrange",
                        "daterange",
                        "numrange",
                        "tsvector",
                        "tsquery",
                        "xml",
                        "time",
                        "timetz",
                        "timestamptz(3)",
                        "real",
                        "name",
                        "oid",
                        "\"char\"",
                        "macaddr8",
                        "jsonpath",
                        "pg_lsn",
                        "int8multirange",
                        "numeric",
                        "numeric(5,-2)",
                        "uuid[]",
                        "jsonb[]",
                        "text[][]",
                        "interval day to second",
                        "regclass",
                        "xid8",
                        "date[]",
                        "bpchar");
            case MARIADB ->
                pick(
                        "UUID",
                        "JSON",
                        "BLOB",
                        "TEXT",
                        "MEDIUMTEXT",
                        "TINYBLOB",
                        "VARBINARY(8)",
                        "BINARY(4)",
                        "TINYINT",
                        "TINYINT UNSIGNED",
                        "MEDIUMINT",
                        "INT UNSIGNED",
                        "BIGINT UNSIGNED",
                        "YEAR",
                        "TIME(3)",
                        "DATETIME(6)",
                        "BIT(1)",
                        "BIT(12)",
                        "ENUM('a', 'b''c')",
                        "SET('x','y','z')",
                        "FLOAT",
                        "INET6",
                        "POINT",
                        "DECIMAL(30, 10)",
                        "TINYINT(1)",
                        "GEOMETRY",
                        "POLYGON",
                        "LINESTRING");
            case SQLITE ->
                pick(
                        "TEXT",
                        "BLOB",
                        "REAL",
                        "NUMERIC",
                        "DATETIME",
                        "TIME",
                        "TINYINT",
                        "CLOB",
                        "",
                        "JSON",
                        "UUID",
                        "VARCHAR");
        };
    }

    /** Columns that a check ties together. */
    private void tiedColumns(List<String> parts, List<String> ends) {
        switch (random.nextInt(8)) {
            case 0 -> {
                parts.add("starts DATE NOT NULL");
                parts.add("ends DATE NOT NULL");
                ends.add("CHECK (ends > starts)");
            }
            case 1 -> {
                parts.add("low INT NOT NULL");
                parts.add("high INT NOT NULL");
                ends.add("CHECK (low < high AND high <= 50)");
            }
            case 2 -> {
                parts.add("phone VARCHAR(30)");
                parts.add("email VARCHAR(60)");
                ends.add("CHECK (phone IS NOT NULL OR email IS NOT NULL)");
            }
            case 3 -> {
                parts.add("kind VARCHAR(10) NOT NULL CHECK (kind IN ('firm', 'person'))");
                parts.add("firm VARCHAR(20)");
                ends.add("CHECK ((kind = 'firm' AND firm IS NOT NULL) OR (kind = 'person' AND firm IS NULL))");
            }
            case 4 -> {
                parts.add("net DECIMAL(8, 2) NOT NULL");
                parts.add("tax DECIMAL(8, 2) NOT NULL");
                parts.add("total DECIMAL(8, 2) NOT NULL");
                ends.add("CHECK (total = net + tax)");
            }
            case 5 -> {
                parts.add("closed_at TIMESTAMP NULL");
                parts.add("closed_by VARCHAR(20)");
                parts.add("state VARCHAR(8) DEFAULT 'closed' NOT NULL");
                ends.add("CHECK (state <> 'closed' OR (closed_at IS NOT NULL AND closed_by IS NOT NULL))");
            }
            case 6 -> {
                parts.add("x INT NOT NULL");
                parts.add("y INT NOT NULL");
                ends.add("CHECK (CASE WHEN x > 500 THEN y = 1 ELSE y BETWEEN 2 AND 3 END)");
                ends.add("UNIQUE (x, y)");
            }
            default -> {
                parts.add("side VARCHAR(5) NOT NULL CHECK (side IN ('left', 'right'))");
                parts.add("size VARCHAR(2) NOT NULL CHECK (size IN ('S', 'M', 'L'))");
                parts.add("shelf INT NOT NULL CHECK (shelf BETWEEN 1 AND 8000)");
                ends.add("UNIQUE (side, size, shelf)");
            }
        }
    }
}
