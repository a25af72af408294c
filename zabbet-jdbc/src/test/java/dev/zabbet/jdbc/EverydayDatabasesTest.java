package dev.zabbet.jdbc;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assumptions.assumeTrue;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.store.RewindPoint;
import java.net.ServerSocket;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.Statement;
import java.util.List;
import java.util.Locale;
import java.util.stream.Collectors;
import javax.sql.DataSource;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;
import org.junit.jupiter.params.provider.ValueSource;

/** Databases as people set them up: modes that make one product like another, journals, kinds of tables. */
class EverydayDatabasesTest {
    private static final String HUT = "CREATE TABLE hut (id ${id}, name VARCHAR(20) NOT NULL)";
    private static final String STAY = "CREATE TABLE stay (id ${id}, hut_id BIGINT NOT NULL REFERENCES hut (id),"
            + " nights INT NOT NULL CHECK (nights > 0))";

    @TempDir
    private Path folder;

    @ParameterizedTest
    @ValueSource(
            strings = {
                "MODE=PostgreSQL;DATABASE_TO_LOWER=TRUE;DEFAULT_NULL_ORDERING=HIGH",
                "MODE=MySQL;DATABASE_TO_LOWER=TRUE;CASE_INSENSITIVE_IDENTIFIERS=TRUE",
                "MODE=MariaDB;DATABASE_TO_LOWER=TRUE",
                "MODE=MSSQLServer;DATABASE_TO_LOWER=TRUE",
                "MODE=Oracle",
                "MODE=DB2;DATABASE_TO_UPPER=FALSE",
                "MODE=Strict",
                "INIT=CREATE SCHEMA IF NOT EXISTS app\\;SET SCHEMA app"
            })
    void h2LikeOthers(String settings) throws Exception {
        String url = "jdbc:h2:mem:like" + Integer.toHexString(settings.hashCode()) + ";DB_CLOSE_DELAY=-1;" + settings;
        check(Engine.H2, Jdbc.dataSource(url, "sa", ""), HUT, STAY);
        String file = "jdbc:h2:" + folder.resolve("huts") + ";AUTO_SERVER=TRUE;" + settings;
        check(Engine.H2, Jdbc.dataSource(file, "sa", ""), HUT, STAY);
    }

    /** Another process cannot call what notes changes here; all rows are compared then. */
    /** H2 folds letters as the process's language does. */
    @Test
    void h2InTurkish() throws Exception {
        Locale before = Locale.getDefault();
        Locale.setDefault(Locale.forLanguageTag("tr-TR"));
        try {
            h2LikeOthers("MODE=PostgreSQL;DATABASE_TO_LOWER=TRUE");
            h2LikeOthers("MODE=REGULAR");
        } finally {
            Locale.setDefault(before);
        }
    }

    @Test
    void h2InAnotherProcess() throws Exception {
        int port;
        try (ServerSocket free = new ServerSocket(0)) {
            port = free.getLocalPort();
        }
        Process server = new ProcessBuilder(
                        Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                        "-cp",
                        Path.of(org.h2.Driver.class
                                        .getProtectionDomain()
                                        .getCodeSource()
                                        .getLocation()
                                        .toURI())
                                .toString(),
                        "org.h2.tools.Server",
                        "-tcp",
                        "-tcpPort",
                        String.valueOf(port),
                        "-ifNotExists")
                .redirectErrorStream(true)
                .start();
        try (var told = server.inputReader()) {
            told.readLine(); // it is there now
            String url = "jdbc:h2:tcp://localhost:" + port + "/";
            check(Engine.H2, Jdbc.dataSource(url + folder.resolve("served"), "sa", ""), HUT, STAY);
            check(Engine.H2, Jdbc.dataSource(url + "mem:served;DB_CLOSE_DELAY=-1", "sa", ""), HUT, STAY);
        } finally {
            server.destroyForcibly();
        }
    }

    /** Readers are not kept out by a writer there; whoever opened the file so wants it to stay so. */
    @Test
    void sqliteThatWritesAhead() throws Exception {
        DataSource database = sqlite();
        check(Engine.SQLITE, database, "PRAGMA journal_mode = WAL", HUT, STAY);
        assertEquals(List.of("wal"), OwnTriggersTest.texts(database, "PRAGMA journal_mode"));
    }

    @Test
    void sqliteWithAFullTextIndex() throws Exception {
        DataSource database = sqlite();
        check(
                Engine.SQLITE,
                database,
                HUT,
                STAY,
                "CREATE VIRTUAL TABLE words USING fts5(name)",
                "CREATE TRIGGER added AFTER INSERT ON hut BEGIN"
                        + " INSERT INTO words(rowid, name) VALUES (NEW.id, NEW.name); END",
                "CREATE TRIGGER removed AFTER DELETE ON hut BEGIN DELETE FROM words WHERE rowid = OLD.id; END");
        // The index holds what the rows hold, after rewinds too.
        assertEquals(
                OwnTriggersTest.texts(database, "SELECT id || name FROM hut ORDER BY id"),
                OwnTriggersTest.texts(database, "SELECT rowid || name FROM words ORDER BY rowid"));
    }

    @Test
    void sqliteWithStrictTables() throws Exception {
        check(
                Engine.SQLITE,
                sqlite(),
                "CREATE TABLE hut (id INTEGER PRIMARY KEY, name TEXT NOT NULL) STRICT",
                "CREATE TABLE stay (id INTEGER PRIMARY KEY, hut_id INTEGER NOT NULL REFERENCES hut (id), nights INT NOT NULL,"
                        + " twice INT GENERATED ALWAYS AS (nights * 2) VIRTUAL) STRICT");
    }

    private DataSource sqlite() {
        return Jdbc.dataSource("jdbc:sqlite:" + folder.resolve("huts.db") + "?foreign_keys=on", "", "");
    }

    @Test
    void mariaDbWithTablesOfOtherKinds() throws Exception {
        if (Engine.servers().noneMatch(engine -> engine == Engine.MARIADB)) {
            return;
        }
        String loose = STAY.replace(" REFERENCES hut (id)", "");
        check(Engine.MARIADB, Engine.MARIADB.empty(), HUT + " WITH SYSTEM VERSIONING", STAY);
        check(Engine.MARIADB, Engine.MARIADB.empty(), HUT + " ENGINE = MyISAM", loose + " ENGINE = Aria");
        check(Engine.MARIADB, Engine.MARIADB.empty(), HUT + " CHARACTER SET latin1", STAY + " ROW_FORMAT = COMPRESSED");
        check(
                Engine.MARIADB,
                Engine.MARIADB.empty(),
                HUT.replace(
                        "NULL)",
                        "NULL, secret INT INVISIBLE DEFAULT 4, seen TIMESTAMP NOT NULL DEFAULT"
                                + " CURRENT_TIMESTAMP ON UPDATE CURRENT_TIMESTAMP)"),
                STAY.replace("> 0))", "> 0), v INT AS (nights * 2) VIRTUAL, p INT AS (nights * 3) PERSISTENT)"));
    }

    @Test
    void postgresWithTablesOfOtherKinds() throws Exception {
        if (Engine.servers().noneMatch(engine -> engine == Engine.POSTGRES)) {
            return;
        }
        String loose = STAY.replace(" REFERENCES hut (id)", "").replace("TABLE", "UNLOGGED TABLE");
        check(
                Engine.POSTGRES,
                Engine.POSTGRES.empty(),
                HUT,
                loose,
                "CREATE MATERIALIZED VIEW names AS SELECT name FROM hut",
                "CREATE TABLE nothing ()");
        check(
                Engine.POSTGRES,
                Engine.POSTGRES.empty(),
                HUT,
                STAY,
                "ALTER TABLE stay ENABLE ROW LEVEL SECURITY",
                "ALTER TABLE stay FORCE ROW LEVEL SECURITY",
                "CREATE POLICY short ON stay USING (nights < 1000)");
        check(
                Engine.POSTGRES,
                Engine.POSTGRES.empty(),
                "CREATE TYPE place AS (lat numeric, lon numeric)",
                HUT.replace(
                        "NULL)",
                        "NULL, at place, others place[], closed tstzrange, EXCLUDE USING gist (closed WITH &&))"),
                STAY,
                "CREATE RULE also AS ON DELETE TO hut DO ALSO NOTHING",
                "CREATE SCHEMA \"Old\"",
                "CREATE TABLE \"Old\".hut (id SERIAL PRIMARY KEY, hut_id BIGINT REFERENCES public.hut (id))");
    }

    /** The stage is opened as who owns the tables, and the application has a user who may only read and write rows. */
    @ParameterizedTest
    @EnumSource(names = {"H2", "POSTGRES", "MARIADB"})
    void anApplicationWithAUserOfItsOwn(Engine engine) throws Exception {
        assumeTrue(Engine.all().anyMatch(e -> e == engine));
        DataSource owner = engine.fresh(HUT + ";" + STAY);
        DataSource application;
        if (engine == Engine.H2) {
            Engine.execute(
                    owner,
                    "CREATE USER app PASSWORD 'p'",
                    "GRANT SELECT, INSERT, UPDATE, DELETE ON SCHEMA PUBLIC TO app");
            application = Jdbc.dataSource(owner.toString().replaceAll(";.*", ""), "app", "p");
            assertEquals(
                    "A stage on H2 needs a user who is an administrator, which APP is not. Open it as another (the application"
                            + " may keep its own user: changes are noted whoever makes them), or let an administrator run:"
                            + " ALTER USER \"APP\" ADMIN TRUE",
                    assertThrows(ZabbetException.class, () -> Jdbc.stage(application))
                            .getMessage());
        } else {
            application = engine.writerOf(owner);
        }
        try (Stage stage = Jdbc.stage(owner)) {
            Object hut = stage.add("hut").get("id");
            stage.add(3, Factory.forTable("stay").with("hut_id", hut));
            RewindPoint point = stage.mark();
            String before = FollowingRowsTest.contents(stage);
            assertEquals(
                    3,
                    stage.act(() -> Engine.execute(
                                    application,
                                    "INSERT INTO hut (name) VALUES ('Sarn')",
                                    "UPDATE stay SET nights = nights + 1 WHERE id = 1",
                                    "DELETE FROM stay WHERE id = 2"))
                            .changes()
                            .size());
            stage.rewind(point);
            assertEquals(before, FollowingRowsTest.contents(stage));
        }
    }

    /** Dedicates a database, stores rows, has an application change some, and rewinds. */
    private static void check(Engine engine, DataSource database, String... ddl) throws Exception {
        Jdbc.dedicate(database);
        for (String statement : ddl) {
            Engine.execute(database, statement.replace("${id}", engine.id));
        }
        try (Stage stage = Jdbc.stage(database);
                Connection connection = database.getConnection();
                Statement application = connection.createStatement()) {
            Object hut = stage.add("hut").get("id");
            stage.add(3, Factory.forTable("stay").with("hut_id", hut));
            String before = FollowingRowsTest.contents(stage);
            RewindPoint point = stage.mark();
            String changes = stage
                    .act(() -> {
                        application.execute("INSERT INTO hut (name) VALUES ('Sarn')");
                        application.execute("UPDATE stay SET nights = nights + 1 WHERE id = 2");
                        application.execute("DELETE FROM stay WHERE id = 1");
                    })
                    .changes()
                    .stream()
                    .map(change ->
                            change.table().name() + " " + change.getClass().getSimpleName() + " "
                                    + change.row().get("id"))
                    .sorted()
                    .collect(Collectors.joining(", "));
            assertEquals("hut Added 2, stay Changed 2, stay Removed 1", changes);
            stage.expect("stay").count(2);
            stage.rewind(point);
            assertEquals(before, FollowingRowsTest.contents(stage));
            boolean keepsHistory = ddl[0].contains("VERSIONING"); // and gives no number twice
            assertEquals(keepsHistory ? 3L : 2L, ((Number) stage.add("hut").get("id")).longValue());
        }
    }
}
