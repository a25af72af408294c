package dev.zabbet.jdbc;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;
import static org.junit.jupiter.api.Assumptions.assumeTrue;

import dev.zabbet.Failed;
import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.row.Row;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import javax.sql.DataSource;
import org.junit.jupiter.api.Test;

/** A warden may read all stays, and write those of the own hut: in memory by permits, on PostgreSQL by policies. */
class RolesTest {
    private static final String DDL = """
            CREATE TABLE hut (id ${id}, name VARCHAR(40) NOT NULL);
            CREATE TABLE stay (id ${id}, hut_id BIGINT NOT NULL REFERENCES hut (id), nights INT NOT NULL);
            """;

    record Stay(long id, long hutId, int nights) {}

    interface Stays {
        long insert(Stay stay) throws SQLException;

        int updateNights(long id, int nights) throws SQLException;

        boolean delete(long id) throws SQLException;

        List<Stay> findAll() throws SQLException;
    }

    record JdbcStays(DataSource database) implements Stays {
        private int execute(String sql, Object... parameters) throws SQLException {
            try (Connection connection = database.getConnection();
                    PreparedStatement statement = connection.prepareStatement(sql)) {
                for (int i = 0; i < parameters.length; i++) {
                    statement.setObject(i + 1, parameters[i]);
                }
                return statement.executeUpdate();
            }
        }

        @Override
        public long insert(Stay stay) throws SQLException {
            return execute("INSERT INTO stay (hut_id, nights) VALUES (?, ?)", stay.hutId(), stay.nights());
        }

        @Override
        public int updateNights(long id, int nights) throws SQLException {
            return execute("UPDATE stay SET nights = ? WHERE id = ?", nights, id);
        }

        @Override
        public boolean delete(long id) throws SQLException {
            return execute("DELETE FROM stay WHERE id = ?", id) > 0;
        }

        @Override
        public List<Stay> findAll() throws SQLException {
            try (Connection connection = database.getConnection();
                    PreparedStatement statement =
                            connection.prepareStatement("SELECT id, hut_id, nights FROM stay ORDER BY id");
                    ResultSet rows = statement.executeQuery()) {
                List<Stay> found = new ArrayList<>();
                while (rows.next()) {
                    found.add(new Stay(rows.getLong(1), rows.getLong(2), rows.getInt(3)));
                }
                return found;
            }
        }
    }

    @Test
    void inMemoryByPermits() throws Exception {
        try (Stage h2 = Jdbc.stage(Engine.H2.fresh(DDL))) {
            Stage stage = Memory.stage(h2.schema());
            stage.permits("zabbet_warden")
                    .reads("stay", row -> Objects.requireNonNull(row.get("nights", Integer.class)) < 10)
                    .adds("stay", row -> row.get("hut_id", Long.class) == 1)
                    .changes("stay", row -> row.get("hut_id", Long.class) == 1 && row.get("nights", Integer.class) < 8);
            play(stage);
            assertEquals(
                    "Role zabbet_guest may not read stay.",
                    assertThrows(SQLException.class, () -> stage.asRole("zabbet_guest")
                                    .fake(Stays.class)
                                    .findAll())
                            .getMessage());
        }
    }

    @Test
    void onPostgresByPolicies() throws Exception {
        assumeTrue(Engine.all().anyMatch(e -> e == Engine.POSTGRES));
        DataSource database = Engine.POSTGRES.fresh(DDL);
        Engine.execute(
                database,
                "DO $$ BEGIN CREATE ROLE zabbet_warden; EXCEPTION WHEN duplicate_object THEN NULL; END $$",
                "GRANT SELECT, INSERT, UPDATE ON stay TO zabbet_warden",
                "GRANT SELECT ON hut TO zabbet_warden",
                "GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO zabbet_warden",
                "ALTER TABLE stay ENABLE ROW LEVEL SECURITY",
                "CREATE POLICY read_short ON stay FOR SELECT USING (nights < 10)",
                "CREATE POLICY add_own ON stay FOR INSERT WITH CHECK (hut_id = 1)",
                "CREATE POLICY change_own ON stay FOR UPDATE USING (hut_id = 1 AND nights < 8)");
        try (Stage stage = Jdbc.stage(database)) {
            play(stage);
        }
    }

    private static void play(Stage stage) throws Exception {
        List<Stay> stays = stage.add(
                4,
                Factory.forType(Stay.class)
                        .inTurn(Stay::nights, 2, 12, 2, 12)
                        .inTurn(
                                Stay::hutId,
                                stage.add("hut").get("id", Long.class),
                                1L,
                                stage.add("hut").get("id", Long.class),
                                2L));
        Stage asWarden = stage.asRole("zabbet_warden");
        Stays warden = asWarden.fakeOrReal(Stays.class, JdbcStays::new);

        assertEquals(List.of(stays.get(0), stays.get(2)), warden.findAll(), "long stays are not there for a warden");
        stage.act(() -> warden.insert(new Stay(0, 1, 3)))
                .expect()
                .added("stay", row("hut_id", 1).with("nights", 3))
                .nothingElse();
        stage.actDenied(() -> warden.insert(new Stay(0, 2, 3))).expect().unchanged();
        assertEquals(1, warden.updateNights(stays.get(0).id(), 5));
        assertEquals(0, warden.updateNights(stays.get(2).id(), 5), "another hut's stay is not there to be changed");
        asWarden.actDenied(() -> warden.updateNights(stays.get(0).id(), 9))
                .expect()
                .unchanged();
        Failed<Throwable> denied =
                stage.actDenied(() -> warden.delete(stays.get(0).id()));
        assertTrue(denied.failure() instanceof SQLException, denied.failure().toString());
        AssertionError allowed = assertThrows(AssertionError.class, () -> stage.actDenied(() -> warden.findAll()));
        assertTrue(allowed.getMessage().startsWith("The act should have thrown Throwable"), allowed.getMessage());
        stage.expect("stay").count(5);
    }

    private static final String LODGES = "CREATE TABLE lodge (id ${id}, doc ${json} NOT NULL)";

    interface Lodges {
        List<Lodge> findByDocFloors(int floors) throws SQLException;

        int updateDocOwner(long id, String owner) throws SQLException;
    }

    record Owned(String owner, int floors) {}

    record Lodge(long id, Owned doc) {}

    record JdbcLodges(DataSource database) implements Lodges {
        @Override
        public List<Lodge> findByDocFloors(int floors) throws SQLException {
            try (Connection connection = database.getConnection();
                    PreparedStatement statement = connection.prepareStatement(
                            "SELECT id, doc->>'owner' FROM lodge WHERE (doc->>'floors')::int = ? ORDER BY id")) {
                statement.setInt(1, floors);
                ResultSet rows = statement.executeQuery();
                List<Lodge> found = new ArrayList<>();
                while (rows.next()) {
                    found.add(new Lodge(rows.getLong(1), new Owned(rows.getString(2), floors)));
                }
                return found;
            }
        }

        @Override
        public int updateDocOwner(long id, String owner) throws SQLException {
            try (Connection connection = database.getConnection();
                    PreparedStatement statement = connection.prepareStatement(
                            "UPDATE lodge SET doc = jsonb_set(doc, '{owner}', to_jsonb(?::text)) WHERE id = ?")) {
                statement.setString(1, owner);
                statement.setLong(2, id);
                return statement.executeUpdate();
            }
        }
    }

    /** Seeded with full rights, then acted as a warden: what belongs to others cannot be taken, nor given away what is one's own. */
    private static void playOnDocuments(Stage stage) throws Exception {
        List<Row> lodges = stage.add(
                2,
                Factory.forTable("lodge")
                        .inTurn("doc.owner", "zabbet_warden", "somebody")
                        .with("doc.floors", 2));
        Lodges warden = stage.asRole("zabbet_warden").fakeOrReal(Lodges.class, JdbcLodges::new);
        long own = lodges.get(0).get("id", Long.class);
        long other = lodges.get(1).get("id", Long.class);
        assertEquals(2, warden.findByDocFloors(2).size());
        stage.actDenied(() -> warden.updateDocOwner(own, "somebody")).expect().unchanged();
        assertEquals(0, warden.updateDocOwner(other, "zabbet_warden"));
        assertEquals(1, warden.updateDocOwner(own, "zabbet_warden"));
        stage.expect("lodge")
                .holdsOnly(row("doc.owner", "zabbet_warden").with("doc.floors", 2), row("doc.owner", "somebody"));
    }

    @Test
    void predicatesOverDocumentsInMemory() throws Exception {
        Stage stage = Memory.stage(Jdbc.schema(Engine.H2.fresh(LODGES.replace("${json}", "JSON"))));
        stage.permits("zabbet_warden")
                .reads("lodge", row -> true)
                .changes(
                        "lodge",
                        row -> row.document("doc") instanceof Map<?, ?> doc
                                && "zabbet_warden".equals(doc.get("owner")));
        playOnDocuments(stage);
    }

    @Test
    void policiesOverDocumentsOnPostgres() throws Exception {
        assumeTrue(Engine.all().anyMatch(e -> e == Engine.POSTGRES));
        DataSource database = Engine.POSTGRES.fresh(LODGES.replace("${json}", "JSONB"));
        Engine.execute(
                database,
                "DO $$ BEGIN CREATE ROLE zabbet_warden; EXCEPTION WHEN duplicate_object THEN NULL; END $$",
                "GRANT SELECT, UPDATE ON lodge TO zabbet_warden",
                "ALTER TABLE lodge ENABLE ROW LEVEL SECURITY",
                "CREATE POLICY read_all ON lodge FOR SELECT USING (true)",
                "CREATE POLICY own ON lodge FOR UPDATE USING (doc->>'owner' = current_user)");
        try (Stage stage = Jdbc.stage(database)) {
            playOnDocuments(stage);
        }
    }

    @Test
    void otherDatabasesSayThatTheyHaveNoRoles() {
        try (Stage stage = Jdbc.stage(Engine.SQLITE.fresh(DDL))) {
            String message = assertThrows(ZabbetException.class, () -> stage.asRole("zabbet_warden"))
                    .getMessage();
            assertTrue(
                    message.startsWith(
                            "A stage is entered under a role on PostgreSQL and in memory; this one's rows live in SQLite"),
                    message);
        }
    }
}
