package dev.zabbet.jdbc;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;
import static org.junit.jupiter.api.Assumptions.assumeTrue;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.jdbc.internal.dialect.SchemaDraft;
import dev.zabbet.store.RewindPoint;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.Statement;
import java.util.concurrent.TimeUnit;
import javax.sql.DataSource;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.Timeout;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;
import org.junit.jupiter.params.provider.MethodSource;

/** An application that leaves a transaction open, as one does whose pool has autoCommit off: nothing waits for it for ever. */
@Timeout(value = 5, unit = TimeUnit.MINUTES)
class OpenTransactionsTest {
    private static final String TABLES =
            "CREATE TABLE hut (id ${id}, name VARCHAR(20)); CREATE TABLE stay (id ${id}, nights INT)";

    /** To drop a trigger waits for whoever has read its table: it stays until the next stage, which undoes nothing for it. */
    @ParameterizedTest
    @EnumSource(names = {"POSTGRES", "MARIADB"})
    void aTransactionThatHasReadOnly(Engine engine) throws Exception {
        assumeTrue(Engine.all().anyMatch(e -> e == engine));
        DataSource database = engine.fresh(TABLES);
        try (Connection connection = database.getConnection();
                Statement application = connection.createStatement()) {
            Stage stage = Jdbc.stage(database);
            stage.add(3, Factory.forTable("hut"));
            RewindPoint point = stage.mark();
            connection.setAutoCommit(false);
            read(application);
            String[] act = {"INSERT INTO stay (nights) VALUES (1)", "UPDATE hut SET name = 'x' WHERE id = 2"};
            assertEquals(
                    2, stage.act(() -> Engine.execute(database, act)).changes().size());
            stage.rewind(point);
            stage.close();

            Engine.execute(database, act); // nobody's test
            connection.rollback();
            Engine.execute(database, act[0]);
            try (Stage next = Jdbc.stage(database)) {
                next.expect("stay").count(2);
                assertEquals(
                        1,
                        next.act(() -> Engine.execute(database, act)).changes().size(),
                        "its name is x already");
                next.expect("hut").where("name", "x").count(1);
            }
            assertEquals(
                    "[]",
                    SchemaDraft.texts(
                                    connection,
                                    engine == Engine.POSTGRES
                                            ? "SELECT number FROM zabbet.journal"
                                            : "SELECT number FROM zabbet_log")
                            .toString());
        }
    }

    private static void read(Statement application) throws Exception {
        try (ResultSet rows = application.executeQuery("SELECT * FROM hut")) {
            assertTrue(rows.next());
        }
    }

    @Test
    void mariaDbMakesNoTriggersWhereATransactionHasRead() throws Exception {
        assumeTrue(Engine.all().anyMatch(e -> e == Engine.MARIADB));
        DataSource database = Engine.MARIADB.fresh(TABLES);
        try (Connection connection = database.getConnection();
                Statement application = connection.createStatement();
                Stage stage = Jdbc.stage(database)) {
            stage.add("hut");
            connection.setAutoCommit(false);
            read(application);
            String open = assertThrows(ZabbetException.class, stage::mark).getMessage();
            assertTrue(
                    open.matches("A transaction on these tables is open, so that nothing can be noted yet:\n"
                            + "  connection \\d+ of \\w+, between two statements\n"
                            + "Let the code under test commit or roll back, and close its connection, before the first act or"
                            + " rewind point\\."),
                    open);
            connection.rollback();
            assertEquals(
                    1,
                    stage.act(() -> Engine.execute(database, "DELETE FROM hut"))
                            .changes()
                            .size());
        }
    }

    /** Whatever waits for a row, or for the file, gives up and says why. */
    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void aTransactionThatHasWritten(Engine engine) throws Exception {
        DataSource database = engine.fresh(
                TABLES + "; CREATE TABLE warden (id ${id}, code INT NOT NULL, CONSTRAINT code UNIQUE (code))");
        try (Connection connection = database.getConnection();
                Statement application = connection.createStatement();
                Stage stage = Jdbc.stage(database)) {
            connection.setAutoCommit(false);
            application.execute("INSERT INTO warden (code) VALUES (7)");
            String locked = assertThrows(
                            ZabbetException.class,
                            () -> stage.add(
                                    Factory.forTable("warden").with("code", 7).with("id", 99)))
                    .getMessage();
            assertTrue(
                    locked.startsWith(
                            "Rows of warden cannot be stored, and nothing was: a transaction or a result set of another"
                                    + " connection is open, and did not end in time. Let the code under test end it and close its"
                                    + " connection. The database says: "),
                    locked);
            connection.rollback();
            connection.setAutoCommit(true);
            stage.add(Factory.forTable("warden").with("code", 7));
            stage.expect("warden").count(1);
        }
    }
}
