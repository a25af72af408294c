package dev.zabbet.jdbc;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import javax.sql.DataSource;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** A stage in one transaction leaves nothing, whatever the code under test commits. */
class TransactionTest {
    private static final String DDL = "CREATE TABLE hut (id ${id}, name VARCHAR(80) NOT NULL UNIQUE);"
            + "CREATE TABLE stay (id ${id}, hut_id BIGINT NOT NULL REFERENCES hut (id), nights INT NOT NULL);";

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void nothingOfItStays(Engine engine) throws SQLException {
        DataSource database = engine.fresh(DDL);
        try (Stage stage = Jdbc.stage(database)) {
            stage.add("stay");
        }
        try (Stage stage = Jdbc.stageInTransaction(database)) {
            stage.add(600, "stay");
            var point = stage.mark();
            var footprint = stage.act(() -> {
                try (Connection connection = stage.dataSource().getConnection();
                        Statement statement = connection.createStatement()) {
                    connection.setAutoCommit(false);
                    statement.execute("INSERT INTO hut (name) VALUES ('committed')");
                    connection.commit();
                    statement.execute("INSERT INTO hut (name) VALUES ('rolled back')");
                    connection.rollback();
                    connection.setAutoCommit(true);
                    assertThrows(
                            SQLException.class, () -> statement.execute("INSERT INTO hut (name) VALUES ('committed')"));
                    statement.execute("UPDATE stay SET nights = 77 WHERE id = 1");
                    connection.setAutoCommit(false);
                    statement.execute("INSERT INTO hut (name) VALUES ('never committed')");
                }
            });
            footprint
                    .expect()
                    .added("hut", row("name", "committed"))
                    .changed("stay", 1, row("nights", 77))
                    .nothingElse();
            stage.rewind(point);
            stage.expect("hut").where("name", "committed").empty();
            stage.expect("stay").count(601);
            stage.add("hut");
            if (engine.isServer()) {
                try (Connection other = database.getConnection();
                        var rows = other.createStatement().executeQuery("SELECT count(*) FROM stay")) {
                    rows.next();
                    assertEquals(1, rows.getInt(1), "others see nothing");
                }
            }
            SQLException second = assertThrows(SQLException.class, () -> {
                try (Connection one = stage.dataSource().getConnection();
                        Connection two = stage.dataSource().getConnection()) {
                    one.setAutoCommit(false);
                    one.createStatement().execute("DELETE FROM stay");
                    two.createStatement().execute("DELETE FROM stay");
                }
            });
            assertTrue(
                    second.getMessage().startsWith("Another connection has a transaction open."), second::getMessage);
        }
        try (Stage stage = Jdbc.stage(database)) {
            stage.expect("stay").count(1);
            stage.expect("hut").count(1);
        }
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void changingTablesWhereThatCommitsIsSaid(Engine engine) {
        DataSource database = engine.fresh(DDL);
        try (Stage stage = Jdbc.stageInTransaction(database)) {
            var point = stage.mark();
            Engine.execute(stage.dataSource(), "CREATE TABLE tour (id INT PRIMARY KEY)");
            if (commits(engine)) {
                ZabbetException refusal = assertThrows(ZabbetException.class, () -> stage.rewind(point));
                assertTrue(
                        refusal.getMessage().contains("A statement such as CREATE or ALTER TABLE commits on "),
                        refusal::getMessage);
            } else {
                stage.rewind(point);
            }
        }
        assertEquals(commits(engine) ? 3 : 2, Jdbc.schema(database).tables().size());
    }

    private static boolean commits(Engine engine) {
        return engine == Engine.MARIADB || engine == Engine.H2;
    }
}
