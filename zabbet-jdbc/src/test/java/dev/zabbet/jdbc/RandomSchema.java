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
    /** A table of that many rows, and those that come along, needs more room. */
    private static final boolean MANY = Integer.getInteger("zabbet.rows", 20) > 50;

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
            before.append("CREATE EXTENSION hstore;\nCREATE EXTENSION ltree;\nCREATE EXTENSION citext;\n");
            before.append("CREATE SCHEMA other;\nCREATE SEQUENCE numbers START 500 INCREMENT 5;\n");
            before.append("CREATE DOMAIN codes AS varchar(8)[] CHECK (cardinality(VALUE) BETWEEN 1 AND 3);\n");
            before.append("CREATE TYPE mood AS ENUM ('calm', 'windy', 'wet');\n");
            before.append("CREATE DOMAIN percent AS int CHECK (VALUE BETWEEN 0 AND 100);\n");
            before.append("CREATE DOMAIN half AS percent CHECK (VALUE <= 50);\n");
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
        boolean elsewhere = engine == Engine.POSTGRES && one(9);
        String name;
        if (elsewhere) {
            name = "other.t" + i;
        } else if (one(8)) {
            name = quoted("Order " + i);
        } else if (one(12)) {
            name = quoted("select" + i);
        } else {
            name = "t" + i;
        }
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
        keysOfManyKinds(name, parts, ends);
        if (one(3)) {
            computed(parts, ends);
        }
        for (int r = random.nextInt(4); r > 0 && !made.isEmpty(); r--) {
            reference("r" + r, parts, ends);
        }
        if (one(4)) {
            lookup(i, parts, ends);
        }
        if (one(5)) {
            oneOfTwo(parts, ends);
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
        ddl.append("CREATE TABLE ")
                .append(name)
                .append(" (")
                .append(String.join(", ", parts))
                .append(")");
        ddl.append(
                engine == Engine.SQLITE && !key.isEmpty() && !parts.contains("id ${id}") && one(4)
                        ? " WITHOUT ROWID;\n"
                        : ";\n");
        indexes(name, parts);
        if (engine == Engine.POSTGRES && one(6)) {
            kin(name, i);
        }
        circle(name, key, types);
        if (unique && one(2)) {
            made.add(new Made(name, List.of("nr"), List.of("INT")));
        } else if (!key.isEmpty()) {
            made.add(new Made(name, key, types));
        }
    }

    /** Keys that look at nulls, at a part of a value, at what is computed, or that leave little room. */
    private void keysOfManyKinds(String name, List<String> parts, List<String> ends) {
        switch (random.nextInt(14)) {
            case 0 -> {
                if (engine == Engine.H2 || engine == Engine.POSTGRES) {
                    parts.add("alias VARCHAR(20)");
                    parts.add("ended_on DATE");
                    ends.add("UNIQUE NULLS NOT DISTINCT (" + (one(2) ? "alias" : "alias, ended_on") + ")");
                }
            }
            case 1 -> {
                parts.add(
                        "begun TEXT".replace("TEXT", engine == Engine.MARIADB ? "TEXT" : "VARCHAR(90)") + " NOT NULL");
                if (engine == Engine.MARIADB) {
                    ends.add("UNIQUE (begun(" + (4 + random.nextInt(9)) + "))");
                } else if (engine != Engine.H2) {
                    after.append("CREATE UNIQUE INDEX bx" + name.replaceAll("\\W", "") + " ON " + name
                            + " (substr(begun, 1, 6));\n");
                }
            }
            case 2 -> {
                parts.add("small " + (engine == Engine.POSTGRES || MANY ? "SMALLINT" : "TINYINT") + " NOT NULL");
                parts.add("flag BOOLEAN NOT NULL");
                ends.add("UNIQUE (small, flag)");
            }
            case 3 -> {
                parts.add("seen_at TIMESTAMP NOT NULL");
                if (engine == Engine.POSTGRES || engine == Engine.SQLITE) {
                    String day = engine == Engine.SQLITE
                            ? "date(seen_at)"
                            : pick("date_trunc('day', seen_at)", "(seen_at::date)");
                    after.append("CREATE UNIQUE INDEX dx" + name.replaceAll("\\W", "") + " ON " + name + " (" + day
                            + ");\n");
                }
            }
            case 4 -> {
                parts.add("title VARCHAR(40) NOT NULL");
                parts.add("gone_at TIMESTAMP NULL");
                if (engine == Engine.POSTGRES || engine == Engine.SQLITE) {
                    after.append("CREATE UNIQUE INDEX gx" + name.replaceAll("\\W", "") + " ON " + name
                            + " (lower(title)) WHERE gone_at IS NULL;\n");
                } else {
                    parts.add("is_there INT GENERATED ALWAYS AS (CASE WHEN gone_at IS NULL THEN 1 END)");
                    ends.add("UNIQUE (title, is_there)");
                }
            }
            case 5 -> {
                parts.add("slug VARCHAR(30) NOT NULL");
                parts.add("slug_key VARCHAR(30) GENERATED ALWAYS AS (lower(slug))"
                        + (engine == Engine.POSTGRES ? " STORED" : ""));
                ends.add("UNIQUE (slug_key)");
            }
            case 6 -> {
                if (after.indexOf(" back_") < 0 && (engine == Engine.H2 || engine == Engine.POSTGRES)) {
                    Made to = single();
                    if (to != null) {
                        parts.add("of_one " + to.types().get(0));
                        ends.add("UNIQUE NULLS NOT DISTINCT (of_one)");
                        ends.add("FOREIGN KEY (of_one) REFERENCES " + to.name() + " ("
                                + to.key().get(0) + ")");
                    }
                }
            }
            case 7 -> {
                parts.add("nick VARCHAR(12) DEFAULT 'same' NOT NULL");
                ends.add("UNIQUE (nick)");
            }
            case 8 -> {
                if (engine == Engine.POSTGRES) {
                    parts.add("during tstzrange NOT NULL");
                    ends.add("EXCLUDE USING gist (during WITH &&)");
                    parts.add("drawn INT DEFAULT nextval('numbers') NOT NULL UNIQUE");
                    parts.add("made_id uuid DEFAULT gen_random_uuid() NOT NULL UNIQUE");
                }
            }
            default -> {}
        }
    }

    private void computed(List<String> parts, List<String> ends) {
        String stored = engine == Engine.POSTGRES || one(2) && engine != Engine.H2 ? " STORED" : "";
        parts.add("width INT NOT NULL CHECK (width BETWEEN 1 AND 300)");
        parts.add("area INT GENERATED ALWAYS AS (width * 2)" + stored);
        if (one(3)) {
            ends.add("CHECK (area > 10)");
        }
    }

    /** A table of partitions, or one that inherits from this. */
    private void kin(String name, int i) {
        String kin = "k" + i;
        if (one(2)) {
            ddl.append("CREATE TABLE " + kin + " (more INT NOT NULL) INHERITS (" + name + ");\n");
            return;
        }
        String by = pick("RANGE (at)", "LIST (place)", "HASH (nr)");
        ddl.append("CREATE TABLE " + kin + " (nr INT NOT NULL, at DATE NOT NULL, place VARCHAR(9) NOT NULL, "
                + (one(2) ? "PRIMARY KEY (nr, at, place)" : "note VARCHAR(9)") + ") PARTITION BY " + by + ";\n");
        switch (by) {
            case "RANGE (at)" -> {
                ddl.append("CREATE TABLE " + kin + "a PARTITION OF " + kin
                        + " FOR VALUES FROM ('2000-01-01') TO ('2030-01-01');\n");
                ddl.append("CREATE TABLE " + kin + "b PARTITION OF " + kin
                        + " FOR VALUES FROM ('2030-01-01') TO ('2032-01-01');\n");
            }
            case "LIST (place)" ->
                ddl.append("CREATE TABLE " + kin + "a PARTITION OF " + kin + " FOR VALUES IN ('north', 'south');\n"
                        + (one(2) ? "CREATE TABLE " + kin + "b PARTITION OF " + kin + " DEFAULT;\n" : ""));
            default -> {
                for (int part = 0; part < 3; part++) {
                    ddl.append("CREATE TABLE " + kin + "h" + part + " PARTITION OF " + kin
                            + " FOR VALUES WITH (MODULUS 3, REMAINDER " + part + ");\n");
                }
            }
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

    /** Tells whether a table has room for a few rows only. */
    static boolean hasLittleRoom(String table) {
        return table.startsWith("kind");
    }

    /** A reference to a table that has room for few rows, or of which few keys may be referred to. */
    private void lookup(int i, List<String> parts, List<String> ends) {
        String name = "kind" + i;
        String small = engine == Engine.POSTGRES ? "SMALLINT" : "TINYINT";
        String table =
                switch (random.nextInt(4)) {
                    case 0 ->
                        "(id " + small + " NOT NULL PRIMARY KEY CHECK (id BETWEEN 1 AND 3), name VARCHAR(20) NOT"
                                + " NULL UNIQUE)";
                    case 1 ->
                        "(id " + small + " NOT NULL UNIQUE, name VARCHAR(9) NOT NULL PRIMARY KEY CHECK (name IN"
                                + " ('low', 'high')))";
                    case 2 -> "(id " + small + " UNIQUE, word VARCHAR(9) NOT NULL, CHECK (id IN (1, 2, 3, 4)))";
                    default -> "(id INT NOT NULL PRIMARY KEY, word VARCHAR(9))";
                };
        boolean roomy = table.startsWith("(id INT");
        ddl.append("CREATE TABLE " + name + " " + table + ";\n");
        String type = roomy ? "INT" : small;
        String check = roomy ? " CHECK (kind_id = 7 OR kind_id = 8)" : "";
        parts.add("kind_id " + type + " NOT NULL" + check);
        ends.add("FOREIGN KEY (kind_id) REFERENCES " + name + " (id)");
        if (one(2)) {
            parts.add("other_kind_id " + type + (one(2) ? " NOT NULL" : ""));
            ends.add("FOREIGN KEY (other_kind_id) REFERENCES " + name + " (id)");
        }
    }

    /** References that may be empty, but not as they please. */
    private void oneOfTwo(List<String> parts, List<String> ends) {
        Made to = single();
        if (to == null) {
            return;
        }
        for (String column : List.of("by_a", "by_b")) {
            parts.add(column + " " + to.types().get(0));
            ends.add("FOREIGN KEY (" + column + ") REFERENCES " + to.name() + " ("
                    + to.key().get(0) + ")");
        }
        parts.add("free INT");
        ends.add(pick(
                "CHECK (by_a IS NOT NULL OR by_b IS NOT NULL)",
                "CHECK ((by_a IS NULL AND by_b IS NOT NULL) OR (by_a IS NOT NULL AND by_b IS NULL))",
                "CHECK (by_b IS NOT NULL OR free = 0)",
                "CHECK (by_a IS NOT NULL AND (by_b IS NULL OR free > 4))"));
    }

    /** A reference from a table that is there already makes a circle. */
    private void circle(String name, List<String> key, List<String> types) {
        boolean mayBeEmpty =
                ddl.indexOf("of_one") < 0; // rows that differ by a reference alone cannot be empty at first
        if (!one(6) || !mayBeEmpty || made.isEmpty() || key.size() != 1 || engine == Engine.SQLITE) {
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
                name + " INT" + required + " CHECK (abs(" + name + ") < 90)",
                name + " VARCHAR(30)" + required + " CHECK (lower(" + name + ") = " + name + ")",
                name + " VARCHAR(40)" + required + " CHECK (" + name + " LIKE '%@%.%')",
                name + " INT" + required + " CHECK (NOT (" + name + " IN (1, 2, 3)))",
                special(name, required),
                name + " INT" + required + " DEFAULT 7 CHECK (" + name + " <> 8)");
        parts.add(one(3) ? check : name + " " + type(name, required));
    }

    /** Checks in the words of one engine. */
    private String special(String name, String required) {
        return switch (engine) {
            case H2 ->
                pick(
                        name + " VARCHAR(20)" + required + " CHECK (REGEXP_LIKE(" + name + ", '^[a-z]{3}-[0-9]+$'))",
                        name + " INTEGER ARRAY" + required + " CHECK (CARDINALITY(" + name + ") BETWEEN 2 AND 3)",
                        name + " DATE" + required + " CHECK (EXTRACT(YEAR FROM " + name + ") > 2019)");
            case POSTGRES ->
                pick(
                        name + " text" + required + " CHECK (" + name + " ~ '^[a-z0-9._-]+@[a-z0-9-]+\\.[a-z]{2,}$')",
                        name + " text" + required + " CHECK (" + name + " ~* '^#[0-9a-f]{6}$')",
                        name + " text[]" + required + " CHECK (array_length(" + name + ", 1) <= 2)",
                        name + " jsonb" + required + " CHECK (jsonb_typeof(" + name + ") = 'array')",
                        name + " citext" + required + " CHECK (" + name
                                + " = ANY (ARRAY['red'::citext, 'blue'::citext]))",
                        name + " text" + required + " CHECK (" + name + " SIMILAR TO '(up|down)-[0-9]{2}')",
                        name + " date" + required + " CHECK (date_part('isodow', " + name + ") < 6)",
                        name + " timestamptz" + required + " CHECK (date_trunc('hour', " + name + ") = " + name + ")",
                        name + " int" + required + " CHECK (" + name + " & 1 = 0)",
                        name + " half" + required,
                        name + " codes" + required,
                        name + " hstore" + required,
                        name + " ltree" + required,
                        name + " citext" + required + " UNIQUE");
            case MARIADB ->
                pick(
                        name + " VARCHAR(20)" + required + " CHECK (" + name + " REGEXP '^[A-Z]{2}[0-9]{3}$')",
                        name + " LONGTEXT" + required + " CHECK (json_valid(" + name + "))",
                        name + " DATE" + required + " CHECK (year(" + name + ") between 2020 and 2025)",
                        name + " VARCHAR(9)" + required + " CHECK (char_length(" + name + ") = 9)");
            case SQLITE ->
                pick(
                        name + " TEXT" + required + " CHECK (" + name + " GLOB '[A-Z][0-9]*')",
                        name + " TEXT" + required + " CHECK (json_valid(" + name + "))",
                        name + " INTEGER" + required + " CHECK (typeof(" + name + ") IN ('integer', 'null'))",
                        name + " BOOLEAN" + required + " CHECK (" + name + " IN (0, 1))",
                        name + " TEXT COLLATE NOCASE" + required + " UNIQUE");
        };
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
