package dev.zabbet.jdbc;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertNotEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.jdbc.internal.dialect.SchemaDraft;
import dev.zabbet.jdbc.internal.h2.H2Dialect;
import dev.zabbet.jdbc.internal.h2.H2Triggers;
import dev.zabbet.row.Row;
import dev.zabbet.store.RewindPoint;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import javax.sql.DataSource;
import org.h2.tools.TriggerAdapter;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** What the application's own triggers do is in the footprint; they rest during a rewind, and work again after it. */
class OwnTriggersTest {
    private static final String DDL = """
            CREATE TABLE hut (id ${id}, name VARCHAR(20) NOT NULL, version INT NOT NULL);
            CREATE TABLE diary (id ${id}, hut_id BIGINT NOT NULL, what VARCHAR(20) NOT NULL);
            CREATE TABLE trace (what VARCHAR(20) NOT NULL);
            CREATE TABLE tally (id BIGINT PRIMARY KEY, entries INT NOT NULL);
            """;

    private static final String[] ROWS = {
        "INSERT INTO tally (id, entries) VALUES (1, 0)",
        "INSERT INTO hut (name, version) VALUES ('Valserra', 7)",
        "INSERT INTO hut (name, version) VALUES ('Oberalm', 8)",
        "INSERT INTO hut (name, version) VALUES ('Piz Mora', 9)",
    };

    private static final Map<Engine, List<String>> TRIGGERS = Map.of(
            Engine.SQLITE,
            List.of(
                    "CREATE TRIGGER a AFTER INSERT ON hut BEGIN UPDATE hut SET version = 1 WHERE id = NEW.id;"
                            + " INSERT INTO diary (hut_id, what) VALUES (NEW.id, 'opened');"
                            + " INSERT INTO trace (what) VALUES ('opened'); END",
                    "CREATE TRIGGER b AFTER UPDATE OF name ON hut BEGIN"
                            + " UPDATE hut SET version = version + 1 WHERE id = NEW.id;"
                            + " INSERT INTO diary (hut_id, what) VALUES (NEW.id, 'renamed');"
                            + " INSERT INTO trace (what) VALUES ('renamed'); END",
                    "CREATE TRIGGER c AFTER DELETE ON hut BEGIN"
                            + " INSERT INTO diary (hut_id, what) VALUES (OLD.id, 'closed');"
                            + " INSERT INTO trace (what) VALUES ('closed'); END",
                    "CREATE TRIGGER d AFTER INSERT ON diary BEGIN UPDATE tally SET entries = entries + 1; END"),
            Engine.POSTGRES,
            List.of(
                    """
                    CREATE FUNCTION write_down() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN
                    INSERT INTO diary (hut_id, what) VALUES (COALESCE(NEW.id, OLD.id), TG_ARGV[0]);
                    INSERT INTO trace (what) VALUES (TG_ARGV[0]);
                    IF TG_OP = 'INSERT' THEN UPDATE hut SET version = 1 WHERE id = NEW.id; END IF;
                    IF TG_OP = 'UPDATE' THEN NEW.version := OLD.version + 1; END IF;
                    RETURN NEW; END $$""",
                    "CREATE FUNCTION count_up() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN"
                            + " UPDATE tally SET entries = entries + 1; RETURN NEW; END $$",
                    "CREATE TRIGGER a AFTER INSERT ON hut FOR EACH ROW EXECUTE FUNCTION write_down('opened')",
                    "CREATE TRIGGER b BEFORE UPDATE ON hut FOR EACH ROW WHEN (OLD.name <> NEW.name)"
                            + " EXECUTE FUNCTION write_down('renamed')",
                    "CREATE TRIGGER c AFTER DELETE ON hut FOR EACH ROW EXECUTE FUNCTION write_down('closed')",
                    "CREATE TRIGGER d AFTER INSERT ON diary FOR EACH ROW EXECUTE FUNCTION count_up()"),
            Engine.MARIADB,
            List.of(
                    "CREATE TRIGGER a0 BEFORE INSERT ON hut FOR EACH ROW SET NEW.version = 1",
                    "CREATE TRIGGER b0 BEFORE UPDATE ON hut FOR EACH ROW SET NEW.version = OLD.version + 10",
                    "CREATE TRIGGER b1 BEFORE UPDATE ON hut FOR EACH ROW FOLLOWS b0 SET NEW.version = NEW.version - 9",
                    "CREATE TRIGGER a AFTER INSERT ON hut FOR EACH ROW opening: BEGIN DECLARE word VARCHAR(20)"
                            + " DEFAULT 'opened'; INSERT INTO diary (hut_id, what) VALUES (NEW.id, word);"
                            + " INSERT INTO trace (what) VALUES (word); END opening",
                    "CREATE TRIGGER b AFTER UPDATE ON hut FOR EACH ROW BEGIN"
                            + " INSERT INTO diary (hut_id, what) VALUES (NEW.id, 'renamed');"
                            + " INSERT INTO trace (what) VALUES ('renamed'); END",
                    "CREATE TRIGGER c AFTER DELETE ON hut FOR EACH ROW BEGIN"
                            + " INSERT INTO diary (hut_id, what) VALUES (OLD.id, 'closed');"
                            + " INSERT INTO trace (what) VALUES ('closed'); END",
                    "CREATE TRIGGER d AFTER INSERT ON diary FOR EACH ROW UPDATE tally SET entries = entries + 1"),
            Engine.H2,
            List.of(
                    "CREATE TRIGGER a AFTER INSERT ON hut FOR EACH ROW CALL '" + Diary.class.getName() + "'",
                    "CREATE TRIGGER b AFTER UPDATE ON hut FOR EACH ROW CALL '" + Diary.class.getName() + "'",
                    "CREATE TRIGGER c AFTER DELETE ON hut FOR EACH ROW CALL '" + Diary.class.getName() + "'",
                    "CREATE TRIGGER d BEFORE UPDATE ON hut FOR EACH ROW CALL '" + Version.class.getName() + "'"));

    /** Counts how often a hut was renamed. */
    public static final class Version extends TriggerAdapter {
        @Override
        public void fire(Connection connection, ResultSet before, ResultSet after) throws SQLException {
            if (!before.getString("NAME").equals(after.getString("NAME"))) {
                after.updateInt("VERSION", before.getInt("VERSION") + 1);
            }
        }
    }

    /** Writes down what happens to huts. */
    public static final class Diary extends TriggerAdapter {
        @Override
        public void fire(Connection connection, ResultSet before, ResultSet after) throws SQLException {
            if (before != null && after != null && before.getString("NAME").equals(after.getString("NAME"))) {
                return;
            }
            String what;
            if (before == null) {
                what = "opened";
            } else if (after == null) {
                what = "closed";
            } else {
                what = "renamed";
            }
            long id = after == null ? before.getLong("ID") : after.getLong("ID");
            try (Statement statement = connection.createStatement()) {
                statement.execute("INSERT INTO diary (hut_id, what) VALUES (" + id + ", '" + what + "')");
                statement.execute("INSERT INTO trace (what) VALUES ('" + what + "')");
                if (before == null) {
                    statement.execute("UPDATE hut SET version = 1 WHERE id = " + id);
                }
                statement.execute("UPDATE tally SET entries = entries + 1");
            }
        }
    }

    /** What tells all triggers of a database as they are, in the order in which they fire. */
    static final Map<Engine, String> DEFINITIONS = Map.of(
            Engine.SQLITE,
            "SELECT sql FROM sqlite_master WHERE type = 'trigger' ORDER BY rowid",
            Engine.POSTGRES,
            "SELECT pg_get_triggerdef(oid) || tgenabled::text FROM pg_trigger WHERE NOT tgisinternal AND tgname NOT LIKE '!zabbet%' ORDER BY tgname",
            Engine.MARIADB,
            "SELECT CONCAT_WS('/', TRIGGER_NAME, ACTION_TIMING, EVENT_MANIPULATION, ACTION_ORDER, ACTION_STATEMENT,"
                    + " SQL_MODE, DEFINER) FROM information_schema.TRIGGERS WHERE TRIGGER_SCHEMA = DATABASE() AND TRIGGER_NAME NOT LIKE 'zabbet%'"
                    + " ORDER BY TRIGGER_NAME",
            Engine.H2,
            "SELECT DISTINCT DB_OBJECT_SQL('TRIGGER', TRIGGER_SCHEMA, TRIGGER_NAME)"
                    + " FROM INFORMATION_SCHEMA.TRIGGERS ORDER BY 1");

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void restDuringARewindAndStayAsTheyAre(Engine engine) throws Exception {
        DataSource database = engine.fresh(DDL);
        Engine.execute(database, ROWS);
        Engine.execute(database, TRIGGERS.get(engine).toArray(String[]::new));
        List<String> before = texts(database, DEFINITIONS.get(engine));
        check(database);
        assertEquals(before, texts(database, DEFINITIONS.get(engine)));
    }

    @ParameterizedTest(allowZeroInvocations = true)
    @MethodSource("dev.zabbet.jdbc.Engine#servers")
    void restForAnOwnerWithoutSpecialRights(Engine engine) throws Exception {
        DataSource database = engine.ofPlainOwner(DDL);
        Engine.execute(database, ROWS);
        Engine.execute(database, TRIGGERS.get(engine).toArray(String[]::new));
        check(database);
    }

    /** A trigger that changes each row that is stored cannot be outwitted by whoever may not switch it off. */
    @ParameterizedTest(allowZeroInvocations = true)
    @MethodSource("dev.zabbet.jdbc.Engine#servers")
    void areOutwittedByAUserWhoMayOnlyWriteRowsOrNothingIsUndone(Engine engine) throws Exception {
        DataSource database = engine.ofPlainWriter(
                DDL,
                Stream.concat(Stream.of(ROWS), TRIGGERS.get(engine).stream()).toArray(String[]::new));
        if (engine == Engine.POSTGRES) {
            check(database);
            return;
        }
        try (Stage stage = Jdbc.stage(database)) {
            RewindPoint point = stage.mark();
            stage.act(() -> Engine.execute(database, "DELETE FROM hut WHERE id = 3"));
            String then = FollowingRowsTest.contents(stage);
            assertEquals(
                    "The rewind was refused, and nothing was undone: triggers of the application change rows as they are put"
                            + " back, and the database user may not switch them off. What stays different is hut (id=3,"
                            + " name=Piz Mora, version=1), which was (id=3, name=Piz Mora, version=9), and 5 more. Give the"
                            + " user the right to install triggers (GRANT ALL ON the database, and SET USER where triggers"
                            + " belong to other users).",
                    assertThrows(ZabbetException.class, () -> stage.rewind(point))
                            .getMessage());
            assertEquals(then, FollowingRowsTest.contents(stage));
        }
    }

    /** The journal's trigger has to see a new row before one that changes it at once. */
    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void mayBeMadeWhileAStageIsOpen(Engine engine) throws Exception {
        DataSource database = engine.fresh(DDL);
        Engine.execute(database, ROWS);
        try (Stage stage = Jdbc.stage(database)) {
            stage.act(() -> Engine.execute(database, "UPDATE hut SET name = 'Alm' WHERE id = 2"));
            Engine.execute(database, TRIGGERS.get(engine).toArray(String[]::new));
            String before = FollowingRowsTest.contents(stage);
            RewindPoint point = stage.mark();
            assertEquals(
                    "hut + (id=4, name=Sarn, version=1)",
                    stage
                            .act(() -> Engine.execute(database, "INSERT INTO hut (name, version) VALUES ('Sarn', 5)"))
                            .changes()
                            .stream()
                            .map(FollowingRowsTest::line)
                            .filter(line -> line.startsWith("hut"))
                            .collect(Collectors.joining("\n")));
            stage.rewind(point);
            assertEquals(before, FollowingRowsTest.contents(stage));
        }
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void leaveNothingBehindWhenAllIsCleared(Engine engine) throws Exception {
        DataSource database = engine.fresh(DDL);
        Engine.execute(database, ROWS);
        Engine.execute(database, TRIGGERS.get(engine).toArray(String[]::new));
        try (Stage stage = Jdbc.stage(database)) {
            String before = FollowingRowsTest.contents(stage);
            stage.store().clear(stage.schema().tables());
            assertEquals("diary[]\nhut[]\ntally[]\ntrace[]", FollowingRowsTest.contents(stage));
            Engine.execute(database, ROWS);
            RewindPoint point = stage.mark();
            String again = FollowingRowsTest.contents(stage);
            stage.store().clear(stage.schema().tables()); // and watched
            assertEquals("diary[]\nhut[]\ntally[]\ntrace[]", FollowingRowsTest.contents(stage));
            stage.rewind(point);
            assertEquals(again, FollowingRowsTest.contents(stage));
            assertNotEquals(before, again); // the triggers had been at work
        }
    }

    static List<String> texts(DataSource database, String query) throws SQLException {
        try (Connection connection = database.getConnection()) {
            return SchemaDraft.texts(connection, query);
        }
    }

    /** Who may make own triggers only gets no journal, and finds all as it was. */
    @Test
    void ofAnotherUserStayAsTheyAre() throws Exception {
        if (Engine.servers().noneMatch(engine -> engine == Engine.MARIADB)) {
            return;
        }
        DataSource database = Engine.MARIADB.ofPlainOwner(DDL);
        Engine.execute(database, ROWS);
        Engine.execute(database, "CREATE TRIGGER a AFTER DELETE ON hut FOR EACH ROW INSERT INTO trace VALUES ('own')");
        Engine.execute(
                Jdbc.dataSource(Engine.MARIADB.url(Engine.name(database)), "", ""),
                "CREATE TRIGGER d AFTER INSERT ON trace FOR EACH ROW UPDATE tally SET entries = entries + 1");
        String definitions = DEFINITIONS.get(Engine.MARIADB);
        List<String> before = texts(database, definitions);
        try (Stage stage = Jdbc.stage(database)) {
            String rows = FollowingRowsTest.contents(stage);
            RewindPoint point = stage.mark();
            assertEquals(before, texts(database, definitions));
            stage.act(() -> Engine.execute(
                            database,
                            "INSERT INTO diary (hut_id, what) VALUES (1, 'seen')",
                            "DELETE FROM hut WHERE id = 2"))
                    .expect()
                    .added("trace", Row.row("what", "own"));
            stage.rewind(point);
            assertEquals(rows, FollowingRowsTest.contents(stage));
        }
        assertEquals(before, texts(database, definitions));
        assertEquals(List.of(), texts(database, "SHOW TABLES LIKE 'zabbet\\_of\\_%'"));
    }

    /** A process that dies while triggers rest leaves behind what makes them again. */
    @Test
    void ofAnH2FileComeBackAfterACrash(@TempDir Path folder) throws Exception {
        DataSource file = Jdbc.dataSource("jdbc:h2:" + folder.resolve("huts"), "sa", "");
        Jdbc.dedicate(file);
        Jdbc.runSql(file, DDL.replace("${id}", Engine.H2.id));
        Engine.execute(file, TRIGGERS.get(Engine.H2).toArray(String[]::new));
        List<String> before = texts(file, DEFINITIONS.get(Engine.H2));
        try (Connection connection = file.getConnection()) {
            H2Triggers.rest(new H2Dialect(), connection);
        }
        assertEquals(List.of(), texts(file, DEFINITIONS.get(Engine.H2)));
        Jdbc.stage(file).close();
        assertEquals(before, texts(file, DEFINITIONS.get(Engine.H2)));
    }

    private static void check(DataSource database) throws Exception {
        String before;
        try (Stage stage = Jdbc.stage(database);
                Connection connection = database.getConnection();
                Statement sql = connection.createStatement()) {
            before = FollowingRowsTest.contents(stage);
            for (int round = 0; round < 3; round++) { // the triggers work in each
                RewindPoint point = stage.mark();
                List<String> changes = stage
                        .act(() -> {
                            sql.execute("INSERT INTO hut (name, version) VALUES ('Sarn', 5)");
                            sql.execute("UPDATE hut SET name = 'Obere Alm' WHERE id = 2");
                            sql.execute("DELETE FROM hut WHERE id = 3");
                        })
                        .changes()
                        .stream()
                        .map(FollowingRowsTest::line)
                        .sorted()
                        .toList();
                assertEquals("""
                        diary + (id=1, hut_id=4, what=opened)
                        diary + (id=2, hut_id=2, what=renamed)
                        diary + (id=3, hut_id=3, what=closed)
                        hut * (id=2, name=Oberalm, version=8) (id=2, name=Obere Alm, version=9)
                        hut + (id=4, name=Sarn, version=1)
                        hut - (id=3, name=Piz Mora, version=9)
                        tally * (id=1, entries=0) (id=1, entries=3)
                        trace + (what=closed)
                        trace + (what=opened)
                        trace + (what=renamed)""", String.join("\n", changes), "round " + round);
                stage.rewind(point);
                assertEquals(before, FollowingRowsTest.contents(stage), "rewound, round " + round);
            }
        }
        try (Stage stage = Jdbc.stage(database)) {
            assertEquals(before, FollowingRowsTest.contents(stage));
        }
    }
}
