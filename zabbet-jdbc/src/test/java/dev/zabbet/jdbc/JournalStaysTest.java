package dev.zabbet.jdbc;

import static dev.zabbet.row.Row.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertFalse;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;
import static org.junit.jupiter.api.Assumptions.assumeTrue;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.jdbc.internal.dialect.SchemaDraft;
import dev.zabbet.store.RewindPoint;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.List;
import javax.sql.DataSource;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;
import org.junit.jupiter.params.provider.MethodSource;

/** The journal of a server stays where it is when a stage is closed: it is found again, and harms nobody meanwhile. */
class JournalStaysTest {
    private static final String DDL = "CREATE TABLE hut (id ${id}, name VARCHAR(80) NOT NULL, beds INT);"
            + "CREATE TABLE stay (id ${id}, hut_id BIGINT NOT NULL REFERENCES hut (id) ON DELETE CASCADE, nights INT);"
            + "CREATE TABLE note (said VARCHAR(80))";
    private static final String[] ROWS = {
        "INSERT INTO hut (name, beds) VALUES ('Edelgrat', 34)", "INSERT INTO stay (hut_id, nights) VALUES (1, 2)"
    };

    private static DataSource fresh(Engine engine) {
        DataSource database = engine.fresh(DDL);
        Engine.execute(database, ROWS);
        return database;
    }

    private static List<String> made(CountingDataSource database) {
        return database.sent().stream()
                .filter(sql ->
                        sql.matches("(?s).*\\bCREATE\\b.*") && !sql.matches("(?s).*(zabbet_stage|zabbet.stage).*"))
                .toList();
    }

    private static List<String> texts(DataSource database, String sql) throws SQLException {
        try (Connection connection = database.getConnection()) {
            return SchemaDraft.texts(connection, sql);
        }
    }

    private static List<String> noted(Engine engine, DataSource database) throws SQLException {
        return texts(
                database,
                engine == Engine.POSTGRES ? "SELECT number FROM zabbet.journal" : "SELECT number FROM zabbet_log");
    }

    @ParameterizedTest(allowZeroInvocations = true)
    @MethodSource("dev.zabbet.jdbc.Engine#servers")
    void isFoundAgainAndRenewedOnlyForTablesThatChanged(Engine engine) throws Exception {
        CountingDataSource database = new CountingDataSource(fresh(engine));
        try (Stage stage = Jdbc.stage(database)) {
            stage.mark();
            assertFalse(made(database).isEmpty());
            Engine.execute(database, "UPDATE hut SET beds = 35");
        }
        database.sent();
        try (Stage stage = Jdbc.stage(database)) {
            RewindPoint point = stage.mark();
            assertEquals(List.of(), made(database));
            stage.act(() -> Engine.execute(database, "DELETE FROM hut", "INSERT INTO note VALUES ('gone')"))
                    .expect()
                    .removed("hut", row("id", 1))
                    .removed("stay", row("id", 1))
                    .added("note", row("said", "gone"))
                    .nothingElse();
            stage.rewind(point);
            stage.expect("hut").holdsOnly(row("beds", 35));
        }
        Engine.execute(
                database,
                "DROP TABLE note",
                "CREATE TABLE note (said VARCHAR(80), at INT)",
                "ALTER TABLE hut DROP COLUMN beds",
                "ALTER TABLE hut ADD COLUMN height INT");
        Engine.execute(
                database,
                "INSERT INTO hut (name, height) VALUES ('Rotbach', 2100)",
                "INSERT INTO note VALUES ('x', 1)");
        assertEquals(List.of(), noted(engine, database), "nobody's test");
        database.sent();
        try (Stage stage = Jdbc.stage(database)) {
            RewindPoint point = stage.mark();
            List<String> anew = made(database);
            assertTrue(
                    anew.stream().noneMatch(sql -> sql.contains("ON `stay`") || sql.contains("\"stay\"")),
                    anew::toString);
            stage.act(() -> Engine.execute(database, "UPDATE hut SET height = 3000", "DELETE FROM note"))
                    .expect()
                    .changed("hut", 1, row("height", 3000))
                    .changed("hut", 2, row("height", 3000))
                    .removed("note", row("at", 1))
                    .nothingElse();
            stage.rewind(point);
            stage.expect("hut").where("height", 2100).count(1);
        }
    }

    /** A column may be dropped in the middle of an act, too: then the footprint cannot be told, and says so. */
    @ParameterizedTest(allowZeroInvocations = true)
    @MethodSource("dev.zabbet.jdbc.Engine#servers")
    void neverStandsInTheWayOfAMigration(Engine engine) throws Exception {
        DataSource database = fresh(engine);
        try (Stage stage = Jdbc.stage(database)) {
            stage.mark();
            ZabbetException refusal = assertThrows(ZabbetException.class, () -> stage.act(() -> Engine.execute(
                            database, "ALTER TABLE hut DROP COLUMN beds", "INSERT INTO hut (name) VALUES ('Rotbach')"))
                    .expect()
                    .nothingElse());
            assertTrue(refusal.getMessage().contains("were changed (CREATE, ALTER or DROP)"), refusal::getMessage);
            stage.act(() -> Engine.execute(database, "INSERT INTO hut (name) VALUES ('Fuorcla')"))
                    .expect()
                    .added("hut", row("name", "Fuorcla"))
                    .nothingElse();
        }
        Engine.execute(database, "ALTER TABLE stay RENAME TO visit", "UPDATE visit SET nights = 3", "DELETE FROM hut");
        assertEquals(List.of(), noted(engine, database));
    }

    /** Whoever writes while a stage is opened is waited for; what is there stays there. */
    @ParameterizedTest(allowZeroInvocations = true)
    @MethodSource("dev.zabbet.jdbc.Engine#servers")
    void aWriterThatBeganBeforeIsNotMissed(Engine engine) throws Exception {
        CountingDataSource database = new CountingDataSource(fresh(engine));
        try (Stage stage = Jdbc.stage(database)) {
            stage.mark();
        }
        try (Connection writer = database.getConnection();
                Stage stage = Jdbc.stage(database)) {
            writer.setAutoCommit(false);
            writer.createStatement().executeUpdate("UPDATE hut SET beds = 40");
            ZabbetException refusal = assertThrows(ZabbetException.class, stage::mark);
            assertTrue(refusal.getMessage().startsWith("A transaction "), refusal::getMessage);
            writer.commit();
            writer.setAutoCommit(true);
            database.sent();
            RewindPoint point = stage.mark();
            assertEquals(List.of(), made(database));
            stage.act(() -> Engine.execute(database, "DELETE FROM stay"))
                    .expect()
                    .counts("stay", 0, 0, 1);
            stage.rewind(point);
            stage.expect("hut").holdsOnly(row("beds", 40));
        }
    }

    /** A row that leads nowhere refers to one that a test stores, and must not go with it. */
    @ParameterizedTest(allowZeroInvocations = true)
    @MethodSource("dev.zabbet.jdbc.Engine#servers")
    void whatLeadNowhereIsStillThereAfterARewind(Engine engine) throws Exception {
        DataSource database = fresh(engine);
        Engine.execute(
                database,
                engine == Engine.POSTGRES ? "SET session_replication_role = replica" : "SET foreign_key_checks = 0",
                "INSERT INTO stay (hut_id, nights) VALUES (2, 9)");
        try (Stage stage = Jdbc.stage(database)) {
            RewindPoint point = stage.mark();
            stage.act(() -> Engine.execute(database, "INSERT INTO hut (name) VALUES ('Rotbach')"))
                    .expect()
                    .added("hut", row("id", 2))
                    .nothingElse();
            stage.rewind(point);
            stage.expect("stay").where("nights", 9).count(1);
            stage.expect("hut").count(1);
        }
    }

    /** As a copy of a database has it on which a stage was open; and as a process leaves it that died. */
    @ParameterizedTest(allowZeroInvocations = true)
    @MethodSource("dev.zabbet.jdbc.Engine#servers")
    void oneOfAnotherDatabaseIsMadeAnewAndUndoesNothing(Engine engine) throws Exception {
        boolean postgres = engine == Engine.POSTGRES;
        for (boolean copied : List.of(false, true)) {
            DataSource database = fresh(engine);
            try (Stage stage = Jdbc.stage(database)) {
                stage.mark();
            }
            Engine.execute(
                    database,
                    postgres ? "SELECT setval('zabbet.noting', 1)" : "UPDATE zabbet_noting SET noting = 1",
                    "INSERT INTO hut (name) VALUES ('Rotbach')");
            if (copied) {
                Engine.execute(
                        database,
                        postgres
                                ? "COMMENT ON TABLE zabbet.journal IS 'version 0 of another'"
                                : "ALTER TABLE zabbet_noting COMMENT = '0 of another'");
            }
            try (Stage stage = Jdbc.stage(database)) {
                stage.expect("hut").count(copied ? 2 : 1);
                RewindPoint point = stage.mark();
                stage.act(() -> Engine.execute(database, "UPDATE hut SET beds = 1 WHERE id = 1"))
                        .expect()
                        .changed("hut", 1, row("beds", 1))
                        .nothingElse();
                stage.rewind(point);
                stage.expect("hut").where("beds", 34).count(1);
            }
        }
    }

    @ParameterizedTest
    @EnumSource(Engine.class)
    void goesWithTheDedication(Engine engine) throws Exception {
        assumeTrue(Engine.all().anyMatch(e -> e == engine));
        DataSource database = fresh(engine);
        try (Stage stage = Jdbc.stage(database)) {
            stage.mark();
            stage.add("stay");
        }
        assertEquals(Jdbc.schema(database).tableNames().size(), 3, Jdbc.undedicate(database)::database);
        String left =
                switch (engine) {
                    case POSTGRES ->
                        "SELECT nspname FROM pg_namespace WHERE nspname = 'zabbet' UNION ALL SELECT evtname FROM"
                                + " pg_event_trigger UNION ALL SELECT tgname FROM pg_trigger WHERE NOT tgisinternal";
                    case MARIADB ->
                        "SELECT TABLE_NAME FROM information_schema.TABLES WHERE TABLE_SCHEMA = DATABASE() AND"
                                + " TABLE_NAME LIKE 'zabbet%' UNION ALL SELECT TRIGGER_NAME FROM"
                                + " information_schema.TRIGGERS WHERE TRIGGER_SCHEMA = DATABASE()";
                    case SQLITE -> "SELECT name FROM sqlite_master WHERE name LIKE 'zabbet%'";
                    case H2 ->
                        "SELECT TABLE_NAME FROM INFORMATION_SCHEMA.TABLES WHERE TABLE_SCHEMA = 'ZABBET'"
                                + " UNION ALL SELECT TRIGGER_NAME FROM INFORMATION_SCHEMA.TRIGGERS";
                };
        assertEquals(List.of(), texts(database, left));
        assertEquals(List.of("2"), texts(database, "SELECT COUNT(*) FROM stay"));
        if (engine != Engine.H2) { // a database of this process needs no mark
            assertThrows(ZabbetException.class, () -> Jdbc.stage(database).close());
        }
    }

    @Test
    void whoMayNotAskForEventsLooksThroughTheCatalog() throws Exception {
        assumeTrue(Engine.all().anyMatch(e -> e == Engine.POSTGRES));
        DataSource database = Engine.POSTGRES.ofPlainOwner(DDL);
        try (Stage stage = Jdbc.stage(database)) {
            stage.mark();
            assertEquals(List.of("0"), texts(database, "SELECT COUNT(*) FROM pg_event_trigger"));
            Engine.execute(database, "ALTER TABLE note ADD COLUMN at INT");
            stage.act(() -> Engine.execute(database, "INSERT INTO note VALUES ('x', 7)"))
                    .expect()
                    .added("note", row("at", 7))
                    .nothingElse();
        }
    }
}
