package dev.zabbet.jdbc;

import static org.junit.jupiter.api.Assertions.assertEquals;

import dev.zabbet.Stage;
import dev.zabbet.factory.Factory;
import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.jdbc.internal.engine.Engines;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.store.RewindPoint;
import java.sql.Connection;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collections;
import java.util.List;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import javax.sql.DataSource;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** Tables, names and statements that a database allows and few applications have: stored, watched and rewound like others. */
class OddTablesTest {
    private static final String LONG = "a234567890".repeat(7);

    /** Tables, and how many rows a test stores in all: three of each table. */
    private record Tables(Engine engine, String name, String... ddl) {
        @Override
        public String toString() {
            return engine + ": " + name;
        }
    }

    static Stream<Tables> tables() {
        String odd = "per%cent INT, qu QUOTED NOT NULL UNIQUE, back\\slash INT, ünï DATE, select INT, ? INT, :a INT";
        return Stream.of(
                        new Tables(
                                Engine.POSTGRES,
                                "spans that must not overlap",
                                "CREATE EXTENSION btree_gist",
                                "CREATE TABLE stay (id ${id}, room INT NOT NULL, arrives DATE NOT NULL, departs DATE NOT NULL"
                                        + " CHECK (departs > arrives), EXCLUDE USING gist (room WITH =, daterange(arrives,"
                                        + " departs) WITH &&))"),
                        new Tables(
                                Engine.POSTGRES,
                                "a table of an extension",
                                "CREATE TABLE system (id INT PRIMARY KEY, description TEXT)",
                                "ALTER EXTENSION plpgsql ADD TABLE system",
                                "CREATE TABLE hut (id ${id})"),
                        new Tables(
                                Engine.POSTGRES,
                                "a table under another",
                                "CREATE TABLE place (id ${id}, name TEXT NOT NULL)",
                                "CREATE TABLE hut (beds INT) INHERITS (place)"),
                        new Tables(
                                Engine.POSTGRES,
                                "types of its own",
                                "CREATE UNLOGGED TABLE quick (id ${id}, n INT)",
                                "CREATE TABLE two (a SERIAL, b BIGSERIAL, c INT GENERATED ALWAYS AS (a + 1) STORED)",
                                "CREATE TYPE address AS (street TEXT, zip INT)",
                                "CREATE TABLE guest (id ${id}, home address, others address[], ages int4multirange)",
                                "CREATE TABLE late (id INT PRIMARY KEY DEFERRABLE INITIALLY DEFERRED, n INT UNIQUE DEFERRABLE)"),
                        new Tables(
                                Engine.POSTGRES,
                                "documents",
                                "CREATE TABLE hut (id ${id}, tags TEXT[] NOT NULL DEFAULT '{}', data JSONB NOT NULL DEFAULT"
                                        + " '{}', words TSVECTOR GENERATED ALWAYS AS (to_tsvector('english', coalesce(data->>'a',"
                                        + " ''))) STORED, CHECK (jsonb_typeof(data) = 'object'), CHECK (cardinality(tags) < 10))",
                                "CREATE INDEX ON hut USING gin (words)",
                                "CREATE UNIQUE INDEX ON hut (lower(data->>'a')) WHERE cardinality(tags) > 5"),
                        longNames(Engine.POSTGRES, 63),
                        longNames(Engine.MARIADB, 64),
                        oddNames(Engine.POSTGRES, odd, '"', "TEXT"),
                        oddNames(Engine.MARIADB, odd, '`', "VARCHAR(40)"),
                        oddNames(Engine.SQLITE, odd, '"', "TEXT"),
                        oddNames(Engine.H2, odd, '"', "VARCHAR(40)"),
                        new Tables(
                                Engine.MARIADB,
                                "columns of rare kinds",
                                "CREATE TABLE hut (id ${id}, n INT INVISIBLE DEFAULT 7, t TEXT COMPRESSED, z INT(5) ZEROFILL, y"
                                        + " YEAR, s SET('a', 'b'), f TEXT, FULLTEXT (f))",
                                "CREATE TABLE place (id ${id}, p POINT NOT NULL, SPATIAL INDEX (p))",
                                "CREATE TABLE bill (id ${id}, v INT AS (n + 1) VIRTUAL, n INT, w INT AS (n * 2) PERSISTENT, UNIQUE"
                                        + " (w))"),
                        new Tables(
                                Engine.MARIADB,
                                "spans that must not overlap",
                                "CREATE TABLE price (id INT NOT NULL, s DATE NOT NULL, e DATE NOT NULL, PERIOD FOR t (s, e), PRIMARY"
                                        + " KEY (id, t WITHOUT OVERLAPS))"),
                        new Tables(
                                Engine.SQLITE,
                                "keys of all kinds",
                                "CREATE TABLE n (k TEXT PRIMARY KEY, n INT)",
                                "CREATE TABLE r (k REAL PRIMARY KEY, n INT)",
                                "CREATE TABLE b (k BLOB PRIMARY KEY, n INT)",
                                "CREATE TABLE o (rowid TEXT, oid TEXT, x INT)",
                                "CREATE TABLE w (a INT, b TEXT, PRIMARY KEY (a, b)) WITHOUT ROWID",
                                "CREATE TABLE d (id INTEGER PRIMARY KEY DESC, n INT)"),
                        new Tables(
                                Engine.SQLITE,
                                "computed columns",
                                "CREATE TABLE g (id ${id}, a INT NOT NULL, v INT AS (a + 1), s INT AS (a * 2) STORED UNIQUE, t TEXT"
                                        + " DEFAULT (datetime('now')))",
                                "CREATE UNIQUE INDEX u ON g (a) WHERE a > 3"),
                        new Tables(
                                Engine.H2,
                                "domains",
                                "CREATE DOMAIN beds AS INT DEFAULT 3 CHECK (VALUE BETWEEN 1 AND 40)",
                                "CREATE DOMAIN few AS beds CHECK (VALUE < 9)",
                                "CREATE TABLE hut (id ${id}, b beds NOT NULL, f few NOT NULL, c INT GENERATED ALWAYS AS (b + 1), e"
                                        + " ENUM('a', 'b') NOT NULL, r ROW(a INT, b VARCHAR(10)), l CLOB, i INTERVAL HOUR TO MINUTE)"))
                .filter(t -> Engine.all().anyMatch(e -> e == t.engine()));
    }

    private static Tables longNames(Engine engine, int length) {
        String name = LONG.substring(0, length);
        return new Tables(
                engine,
                "long names",
                "CREATE TABLE " + name + " (id ${id}, " + name + " INT, CONSTRAINT " + name.replace("a2", "b2")
                        + " UNIQUE (" + name + "))");
    }

    private static Tables oddNames(Engine engine, String columns, char quote, String text) {
        String quoted = Arrays.stream(columns.split(", "))
                .map(column -> quote + column.replaceFirst(" ", quote + " "))
                .collect(Collectors.joining(", "))
                .replace(quote + "qu" + quote, "" + quote + "qu" + quote + quote + "ote" + quote)
                .replace("QUOTED", text);
        String table = quote + "My Table.x" + quote;
        return new Tables(
                engine,
                "odd names",
                "CREATE TABLE " + table + " (id ${id}, " + quoted + ")",
                "CREATE TABLE " + quote + "user" + quote + " (id ${id}, " + quote + "order" + quote
                        + " BIGINT REFERENCES " + table + " (id))");
    }

    @ParameterizedTest
    @MethodSource("tables")
    void areStoredWatchedAndRewound(Tables tables) throws Exception {
        DataSource database = tables.engine().empty();
        Jdbc.dedicate(database);
        for (String sql : tables.ddl()) {
            Engine.execute(database, sql.replace("${id}", tables.engine().id));
        }
        try (Stage stage = Jdbc.stage(database);
                Connection connection = database.getConnection();
                Statement application = connection.createStatement()) {
            List<Table> order = stage.schema().storingOrder().tables();
            int rows = 0;
            for (Table table : order) {
                stage.add(3, Factory.forTable(table.name()));
                stage.addMany(3, Factory.forTable(table.name()));
                rows += 6;
            }
            RewindPoint point = stage.mark();
            String before = FollowingRowsTest.contents(stage);
            Dialect dialect = Engines.of(connection);
            List<Table> childrenFirst = new ArrayList<>(order);
            Collections.reverse(childrenFirst);
            assertEquals(
                    rows,
                    stage.act(() -> {
                                for (Table table : childrenFirst) {
                                    application.execute("DELETE FROM " + dialect.name(table));
                                }
                            })
                            .changes()
                            .size());
            stage.rewind(point);
            assertEquals(before, FollowingRowsTest.contents(stage));
            assertEquals(
                    order.size(),
                    stage.act(() -> {
                                for (Table table : order) {
                                    stage.add(table.name());
                                    for (Column column : table.columns()) {
                                        if (!column.isComputed()
                                                && !table.keyColumns().contains(column.name())) {
                                            String name = dialect.quote(column.sqlName());
                                            application.execute(
                                                    "UPDATE " + dialect.name(table) + " SET " + name + " = " + name);
                                        }
                                    }
                                }
                            })
                            .changes()
                            .size(),
                    "a row that gets the values that it has is not changed");
            stage.rewind(point);
            assertEquals(before, FollowingRowsTest.contents(stage));
        }
    }

    /** What an application does, and the footprint of it. */
    private record Application(Engine engine, String ddl, List<String> statements, String footprint) {
        @Override
        public String toString() {
            return engine + ": " + statements.get(0);
        }
    }

    static Stream<Application> applications() {
        String stays =
                "CREATE TABLE hut (id ${id}, name VARCHAR(20)); CREATE TABLE stay (id ${id}, hut_id BIGINT, FOREIGN KEY"
                        + " (hut_id) REFERENCES hut (id) ON DELETE CASCADE); INSERT INTO hut (name) VALUES ('a'), ('b');"
                        + " INSERT INTO stay (hut_id) VALUES (1), (2)";
        List<Application> all = new ArrayList<>();
        for (String engine : List.of("Aria", "MyISAM", "Aria TRANSACTIONAL = 0", "MEMORY")) {
            all.add(new Application(
                    Engine.MARIADB,
                    "CREATE TABLE a (id ${id}, n INT) ENGINE = " + engine + "; INSERT INTO a (n) VALUES (1), (2), (3)",
                    List.of(
                            "BEGIN",
                            "INSERT INTO a (n) VALUES (4)",
                            "DELETE FROM a WHERE id = 1",
                            "UPDATE a SET n = 9 WHERE id = 2",
                            "ROLLBACK"),
                    "Added (4, 4), Changed (2, 9), Removed (1, 1)"));
        }
        all.add(new Application(
                Engine.SQLITE,
                "CREATE TABLE n (k TEXT PRIMARY KEY, n INT);"
                        + " INSERT INTO n VALUES (NULL, 1), (NULL, 2), (NULL, 2), ('a', 3), (NULL, 4)",
                List.of(
                        "DELETE FROM n WHERE n = 2",
                        "INSERT INTO n VALUES (NULL, 7)",
                        "UPDATE n SET n = 11 WHERE n = 1",
                        "UPDATE n SET k = NULL WHERE k = 'a'",
                        "UPDATE n SET k = 'b' WHERE n = 4"),
                "Added (b, 4), Added (null, 11), Added (null, 3), Added (null, 7), Removed (a, 3), Removed (null, 1),"
                        + " Removed (null, 2), Removed (null, 2), Removed (null, 4)"));
        all.add(new Application(
                Engine.SQLITE,
                "CREATE TABLE n (k TEXT COLLATE NOCASE PRIMARY KEY, n INT); INSERT INTO n VALUES ('a', 1), ('b', 2)",
                List.of("UPDATE n SET k = 'A' WHERE k = 'a'", "INSERT OR REPLACE INTO n VALUES ('B', 5)"),
                "Added (A, 1), Added (B, 5), Removed (a, 1), Removed (b, 2)"));
        all.add(new Application(
                Engine.SQLITE,
                "CREATE TABLE o (rowid TEXT, x INT); INSERT INTO o VALUES ('a', 1), ('a', 1), ('b', 2)",
                List.of(
                        "DELETE FROM o WHERE _rowid_ = 1",
                        "UPDATE o SET rowid = 'c' WHERE x = 2",
                        "INSERT INTO o VALUES ('a', 1)"),
                "Added (c, 2), Removed (b, 2)"));
        all.add(new Application(
                Engine.SQLITE,
                "CREATE TABLE o (id INTEGER PRIMARY KEY, x INT UNIQUE ON CONFLICT REPLACE); INSERT INTO o VALUES (1, 1), (2, 2)",
                List.of("INSERT INTO o VALUES (3, 1)", "UPDATE o SET x = 1 WHERE id = 2"),
                "Changed (2, 1), Removed (1, 1)"));
        all.add(new Application(
                Engine.SQLITE,
                "CREATE TABLE o (id INTEGER PRIMARY KEY, x INT, y INT); CREATE UNIQUE INDEX u ON o (x) WHERE y > 0;"
                        + " CREATE UNIQUE INDEX v ON o (x + y); INSERT INTO o VALUES (1, 1, 1), (2, 2, 2)",
                List.of(
                        "INSERT OR REPLACE INTO o VALUES (3, 1, 5)",
                        "INSERT OR REPLACE INTO o VALUES (4, 3, 1)",
                        "UPDATE OR REPLACE o SET x = 100 WHERE id = 3"),
                "Added (3, 100, 5), Added (4, 3, 1), Removed (1, 1, 1), Removed (2, 2, 2)"));
        all.add(new Application(
                Engine.SQLITE,
                "CREATE TABLE o (a TEXT, x INT); INSERT INTO o VALUES ('1', 1), ('2', 2), ('3', 3)",
                List.of(
                        "DELETE FROM o WHERE x = 1",
                        "VACUUM",
                        "DELETE FROM o WHERE x = 2",
                        "ATTACH ':memory:' AS other",
                        "CREATE TABLE other.o (a TEXT, x INT)",
                        "INSERT INTO other.o VALUES ('5', 5)",
                        "INSERT INTO main.o VALUES ('4', 4)"),
                "Added (4, 4), Removed (1, 1), Removed (2, 2)"));
        all.add(new Application(
                Engine.POSTGRES,
                "CREATE TABLE hut (id ${id}, gone BOOLEAN DEFAULT false); CREATE RULE soft AS ON DELETE TO hut DO INSTEAD UPDATE"
                        + " hut SET gone = true WHERE id = OLD.id; INSERT INTO hut VALUES (DEFAULT), (DEFAULT)",
                List.of("DELETE FROM hut WHERE id = 1", "INSERT INTO hut VALUES (DEFAULT)"),
                "Added (3, false), Changed (1, true)"));
        all.add(new Application(
                Engine.POSTGRES,
                "CREATE TABLE hut (id ${id}, name TEXT); INSERT INTO hut (name) VALUES ('a'), ('b')",
                List.of(
                        "TRUNCATE hut",
                        "INSERT INTO hut (name) SELECT 'x' || g FROM generate_series(1, 3) g",
                        "WITH d AS (DELETE FROM hut WHERE name = 'x1' RETURNING *) INSERT INTO hut (name) SELECT name FROM d",
                        "TRUNCATE hut RESTART IDENTITY",
                        "INSERT INTO hut (name) VALUES ('z')"),
                "Changed (1, z), Removed (2, b)"));
        all.add(new Application(
                Engine.POSTGRES,
                "CREATE TABLE hut (id INT NOT NULL, k INT NOT NULL, PRIMARY KEY (id, k)) PARTITION BY RANGE (k);"
                        + " CREATE TABLE low PARTITION OF hut FOR VALUES FROM (0) TO (10);"
                        + " CREATE TABLE high PARTITION OF hut FOR VALUES FROM (10) TO (20); INSERT INTO hut VALUES (1, 1), (2, 15)",
                List.of("UPDATE hut SET k = 12 WHERE id = 1", "TRUNCATE high", "INSERT INTO low VALUES (7, 7)"),
                "Added (7, 7), Removed (1, 1), Removed (2, 15)"));
        for (Engine engine : List.of(Engine.POSTGRES, Engine.H2)) {
            all.add(new Application(
                    engine,
                    "CREATE TABLE hut (id INT PRIMARY KEY, name VARCHAR(9)); INSERT INTO hut VALUES (1, 'a'), (2, 'b')",
                    List.of(
                            "MERGE INTO hut h USING (VALUES (1, 'n'), (5, 'm')) v (id, name) ON h.id = v.id WHEN MATCHED THEN"
                                    + " UPDATE SET name = v.name WHEN NOT MATCHED THEN INSERT VALUES (v.id, v.name)",
                            "UPDATE hut SET id = id + 100"),
                    "Added (101, n), Added (102, b), Added (105, m), Removed (1, a), Removed (2, b)"));
        }
        all.add(new Application(
                Engine.MARIADB,
                stays,
                List.of(
                        "SET foreign_key_checks = 0",
                        "DELETE FROM hut WHERE id = 1",
                        "INSERT INTO stay (hut_id) VALUES (77)"),
                "Added (3, 77), Removed (1, a)"));
        all.add(new Application(
                Engine.MARIADB,
                stays,
                List.of(
                        "DELETE h, s FROM hut h JOIN stay s ON s.hut_id = h.id WHERE h.id = 1",
                        "UPDATE hut h JOIN stay s ON s.hut_id = h.id SET h.name = 'x', s.id = 55",
                        "INSERT IGNORE INTO hut (id, name) VALUES (2, 'no'), (9, 'yes')",
                        "LOCK TABLES hut WRITE",
                        "UNLOCK TABLES"),
                "Added (55, 2), Added (9, yes), Changed (2, x), Removed (1, 1), Removed (1, a), Removed (2, 2)"));
        all.add(new Application(
                Engine.MARIADB,
                "CREATE TABLE day (id ${id}, d DATE, t DATETIME); INSERT INTO day (d) VALUES (NULL), ('2026-02-01')",
                List.of(
                        "SET sql_mode = ''",
                        "INSERT INTO day (d, t) VALUES ('0000-00-00', '2026-00-00 10:00:00')",
                        "UPDATE day SET d = '2026-02-00' WHERE id = 2"),
                "Added (3, 0000-00-00, 2026-00-00 10:00:00), Changed (2, 2026-02-00, null)"));
        all.add(new Application(
                Engine.MARIADB,
                stays,
                List.of(
                        "XA START 'one'",
                        "INSERT INTO hut (name) VALUES ('x')",
                        "XA END 'one'",
                        "XA PREPARE 'one'",
                        "XA COMMIT 'one'"),
                "Added (3, x)"));
        return all.stream().filter(a -> Engine.all().anyMatch(e -> e == a.engine()));
    }

    @ParameterizedTest
    @MethodSource("applications")
    void leaveAFootprintAndAreRewound(Application application) throws Exception {
        DataSource database = application.engine().empty();
        Jdbc.dedicate(database);
        for (String sql : application.ddl().split(";")) {
            Engine.execute(database, sql.replace("${id}", application.engine().id));
        }
        try (Stage stage = Jdbc.stage(database)) {
            RewindPoint point = stage.mark();
            String before = FollowingRowsTest.contents(stage);
            String footprint = stage
                    .act(() -> Engine.execute(database, application.statements().toArray(String[]::new)))
                    .changes()
                    .stream()
                    .map(c -> c.getClass().getSimpleName() + " "
                            + c.row().toString().replaceAll("\\w+=", ""))
                    .sorted()
                    .collect(Collectors.joining(", "));
            assertEquals(application.footprint(), footprint);
            stage.rewind(point);
            assertEquals(before, FollowingRowsTest.contents(stage));
        }
    }
}
