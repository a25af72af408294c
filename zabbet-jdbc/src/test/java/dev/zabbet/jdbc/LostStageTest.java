package dev.zabbet.jdbc;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.jdbc.internal.dialect.SchemaDraft;
import dev.zabbet.jdbc.internal.store.JdbcStore;
import dev.zabbet.jdbc.internal.store.StoreOpening;
import dev.zabbet.store.RewindPoint;
import java.io.BufferedReader;
import java.io.InputStreamReader;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.List;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.stream.Stream;
import javax.sql.DataSource;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** A stage whose connection is lost, and one whose end is refused, do no harm to those that come after them. */
class LostStageTest {
    private static final String DDL = "CREATE TABLE hut (id ${id}, name VARCHAR(40) NOT NULL);"
            + "CREATE TABLE stay (id ${id}, hut_id BIGINT NOT NULL REFERENCES hut (id), nights INT NOT NULL);";

    private static Stream<Engine> lasting() {
        return Engine.all().filter(engine -> engine != Engine.H2);
    }

    /** Kills the connections of everybody else, as a server that is restarted, or one that is tired of waiting. */
    private static void killOthers(Engine engine, DataSource database) throws SQLException {
        try (Connection connection = database.getConnection();
                Statement statement = connection.createStatement()) {
            if (engine == Engine.POSTGRES) {
                statement.execute("SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname ="
                        + " current_database() AND pid <> pg_backend_pid()");
                return;
            }
            List<String> others = SchemaDraft.texts(
                    connection,
                    "SELECT ID FROM information_schema.PROCESSLIST WHERE DB = DATABASE() AND ID <> CONNECTION_ID()");
            for (String other : others) {
                statement.execute("KILL " + other);
            }
        }
    }

    private static void loseConnection(Engine engine, DataSource database, Stage stage) throws SQLException {
        killOthers(engine, database);
        assertThrows(ZabbetException.class, () -> stage.rows("hut"), "the call that meets the loss fails");
    }

    @ParameterizedTest(allowZeroInvocations = true)
    @MethodSource("dev.zabbet.jdbc.Engine#servers")
    void aStageGoesOnWithAnotherConnectionWhileNobodyElseCame(Engine engine) throws Exception {
        DataSource database = engine.fresh(DDL);
        try (Stage stage = Jdbc.stage(database)) {
            stage.add(2, "stay");
            String rows = FollowingRowsTest.contents(stage);
            RewindPoint point = stage.mark();
            Engine.execute(database, "DELETE FROM stay", "INSERT INTO hut (name) VALUES ('Windegg')");
            loseConnection(engine, database, stage);
            stage.act(() -> Engine.execute(database, "UPDATE hut SET name = 'x'"))
                    .expect()
                    .counts("hut", 0, 3, 0);
            stage.rewind(point);
            assertEquals(rows, FollowingRowsTest.contents(stage));
            loseConnection(engine, database, stage);
        }
        try (Connection connection = database.getConnection()) {
            assertEquals(List.of(), OwnTriggersTest.texts(database, OwnTriggersTest.DEFINITIONS.get(engine)));
            assertEquals(false, Jdbc.schema(database).tables().isEmpty(), connection::toString);
        }
    }

    /** Opens a stage, changes something, and keeps it open until it is told to go on. */
    static final class Visitor {
        public static void main(String[] arguments) throws Exception {
            DataSource database = Jdbc.dataSource(arguments[0], "", "");
            try (Stage stage = Jdbc.stage(database)) {
                RewindPoint point = stage.mark();
                Engine.execute(database, "UPDATE hut SET name = 'visited'");
                System.out.println("ready");
                System.in.read();
                stage.rewind(point);
                System.out.println(stage.rows("hut").get(0).get("name"));
                if (arguments[1].equals("stay")) {
                    System.in.read();
                }
            }
            System.out.println("gone");
        }
    }

    @ParameterizedTest(allowZeroInvocations = true)
    @MethodSource("dev.zabbet.jdbc.Engine#servers")
    void aStageIsOverOnceAnotherHasTheDatabase(Engine engine) throws Exception {
        DataSource database = engine.fresh(DDL);
        for (String visit : List.of("stay", "leave")) {
            Stage stage = Jdbc.stage(database);
            stage.add(Factory.forTable("hut").with("name", "before"));
            RewindPoint point = stage.mark();
            Engine.execute(database, "INSERT INTO hut (name) VALUES ('mine')");
            killOthers(engine, database);
            Process visitor = new ProcessBuilder(
                            Path.of(System.getProperty("java.home"), "bin", "java")
                                    .toString(),
                            "-cp",
                            System.getProperty("java.class.path"),
                            Visitor.class.getName(),
                            Engine.urlOf(database),
                            visit)
                    .redirectErrorStream(true)
                    .start();
            try (BufferedReader out =
                    new BufferedReader(new InputStreamReader(visitor.getInputStream(), StandardCharsets.UTF_8))) {
                until(out, "ready");
                if (visit.equals("leave")) {
                    visitor.getOutputStream().write('\n');
                    visitor.getOutputStream().flush();
                    until(out, "gone");
                }
                assertThrows(ZabbetException.class, () -> stage.rows("hut"));
                for (Runnable call : List.<Runnable>of(
                        stage::mark, () -> stage.rewind(point), () -> stage.add("hut"), () -> stage.act(() -> {}))) {
                    String over = assertThrows(ZabbetException.class, call::run).getMessage();
                    assertTrue(
                            over.startsWith("This stage on the " + stage.store().description()
                                            + " is over: its connection was lost, and another stage ")
                                    && over.endsWith("Open a new stage."),
                            over);
                }
                stage.close();
                if (visit.equals("stay")) {
                    visitor.getOutputStream().write('\n');
                    visitor.getOutputStream().flush();
                    until(out, "before"); // its own change was undone: its journal was left alone
                    visitor.getOutputStream().write('\n');
                    visitor.getOutputStream().flush();
                    until(out, "gone");
                }
            } finally {
                visitor.destroyForcibly().waitFor();
            }
            Engine.execute(database, "DELETE FROM hut");
        }
    }

    private static void until(BufferedReader out, String word) throws Exception {
        StringBuilder said = new StringBuilder();
        for (String line = out.readLine(); !word.equals(line); line = out.readLine()) {
            assertTrue(line != null, () -> "no '" + word + "' in " + said);
            said.append(line).append('\n');
        }
    }

    /** What others do after a stage's end was refused, because the application held a transaction, is theirs. */
    @ParameterizedTest
    @MethodSource("lasting")
    void afterARefusedEndOnlyTheStagesOwnChangesAreUndone(Engine engine) throws Exception {
        for (boolean rewinds : List.of(false, true)) {
            DataSource database = engine.fresh(DDL);
            Engine.execute(
                    database,
                    "INSERT INTO hut (name) VALUES ('one')",
                    "INSERT INTO hut (name) VALUES ('two')",
                    "INSERT INTO hut (name) VALUES ('three')");
            Stage stage = dev.zabbet.Stage.on(clock ->
                    StoreOpening.open(database, rewinds ? JdbcStore.AtEnd.REWIND : JdbcStore.AtEnd.KEEP, null));
            stage.mark();
            Engine.execute(
                    database,
                    "UPDATE hut SET name = 'own' WHERE name = 'one'",
                    "UPDATE hut SET name = 'both' WHERE name = 'two'",
                    "INSERT INTO hut (name) VALUES ('new')");
            boolean refused = false;
            try (Connection application = database.getConnection();
                    Statement statement = application.createStatement()) {
                application.setAutoCommit(false);
                statement.executeUpdate("UPDATE stay SET nights = 1");
                statement.executeUpdate("INSERT INTO hut (name) VALUES ('late')");
                try {
                    stage.close();
                } catch (ZabbetException e) {
                    refused = true;
                }
                application.rollback();
            }
            Engine.execute(
                    database,
                    "DELETE FROM hut WHERE name = 'three'",
                    "UPDATE hut SET name = 'theirs' WHERE name" + " = 'both'");
            stage.close(); // nothing more
            Jdbc.stage(database).close();
            String kept = rewinds ? "one" : "own";
            List<String> expected = rewinds ? List.of(kept, "theirs") : List.of("new", kept, "theirs");
            assertEquals(expected, names(database), engine + ", rewinds " + rewinds + ", refused " + refused);
            if (refused) { // MariaDB leaves triggers that are taken no notice of where that is enough
                assertEquals(List.of(), OwnTriggersTest.texts(database, OwnTriggersTest.DEFINITIONS.get(engine)));
            }
            assertTrue(refused || !rewinds, "nothing was refused, so that nothing was tried");
        }
    }

    private static List<String> names(DataSource database) throws SQLException {
        try (Connection connection = database.getConnection();
                Statement statement = connection.createStatement();
                ResultSet rows = statement.executeQuery("SELECT name FROM hut ORDER BY name")) {
            List<String> names = new java.util.ArrayList<>();
            while (rows.next()) {
                names.add(rows.getString(1));
            }
            return names;
        }
    }

    /** A database may take back the setting of a counter, because of somebody who stores a row: it is set again, for some time. */
    @Test
    void aCounterThatADeadlockKeepsIsSetAgain() {
        DataSource database = Engine.SQLITE.fresh("CREATE TABLE hut (id ${id}, name VARCHAR(80) NOT NULL)");
        AtomicInteger refusals = new AtomicInteger();
        DataSource busy = new WatchedDataSource(database, sql -> {
            if (sql.startsWith("UPDATE sqlite_sequence") && refusals.getAndDecrement() > 0) {
                throw new SQLException("Deadlock found", "40001");
            }
        });
        try (Stage stage = Jdbc.stage(busy)) {
            stage.add("hut");
            RewindPoint point = stage.mark();
            stage.add(3, "hut");
            refusals.set(2);
            stage.rewind(point);
            assertTrue(refusals.get() < 0, "it was not tried again");
            assertEquals(2L, stage.add("hut").get("id"));
            refusals.set(1000);
            String message = assertThrows(ZabbetException.class, () -> stage.rewind(point))
                    .getMessage();
            assertTrue(message.contains("Let the code under test end its work, then call rewind again."), message);
            refusals.set(0);
            stage.rewind(point);
            assertEquals(2L, stage.add("hut").get("id"));
        }
    }
}
