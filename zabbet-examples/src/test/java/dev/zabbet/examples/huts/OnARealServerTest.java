package dev.zabbet.examples.huts;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;

import dev.zabbet.Stage;
import dev.zabbet.junit.Staged;
import java.sql.Connection;
import java.sql.SQLException;
import javax.sql.DataSource;
import org.junit.jupiter.api.Nested;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.condition.EnabledIfEnvironmentVariable;

/** The real servers, from jars on the class path, with nothing installed; run by {@code mvn verify -Pservers}. */
@EnabledIfEnvironmentVariable(named = "ZABBET_TEST_POSTGRES", matches = "postgres:.*")
class OnARealServerTest {

    @Nested
    @Staged(value = "/db/huts.sql", on = "postgres")
    class OnPostgres {
        @Test
        void aStayBringsItsHut(Stage stage, DataSource database) throws SQLException {
            check(stage, database, "PostgreSQL");
        }
    }

    /** Takes {@code huts.mariadb.sql}, which stands beside. */
    @Nested
    @Staged(value = "/db/huts.sql", on = "mariadb")
    class OnMariaDb {
        @Test
        void aStayBringsItsHut(Stage stage, DataSource database) throws SQLException {
            check(stage, database, "MariaDB");
        }
    }

    private static void check(Stage stage, DataSource database, String product) throws SQLException {
        try (Connection connection = database.getConnection()) {
            assertEquals(product, connection.getMetaData().getDatabaseProductName());
        }
        var stay = stage.add("stay");
        stage.expect("hut").holdsOnly(row("id", stay.get("hut_id")));
    }
}
