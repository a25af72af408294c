package dev.zabbet.jdbc;

import static dev.zabbet.row.Row.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Footprint;
import dev.zabbet.Stage;
import dev.zabbet.factory.Factory;
import dev.zabbet.row.Row;
import dev.zabbet.store.RewindPoint;
import java.sql.Connection;
import java.sql.Statement;
import java.util.List;
import javax.sql.DataSource;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** How many statements a test costs: the same with ten tables as with many, whatever the machine. */
class FewStatementsTest {
    private static final int TABLES = 3;
    private static final int MANY = 60;

    private static String tables(Engine engine, int more) {
        StringBuilder ddl = new StringBuilder("CREATE TABLE region (id ${id}, name VARCHAR(80) NOT NULL UNIQUE);"
                + "CREATE TABLE hut (id ${id}, region_id BIGINT NOT NULL REFERENCES region (id), name VARCHAR(80) NOT NULL"
                + " UNIQUE, beds INTEGER NOT NULL CHECK (beds BETWEEN 4 AND 200));"
                + "CREATE TABLE stay (id ${id}, hut_id BIGINT NOT NULL REFERENCES hut (id), nights INTEGER NOT NULL,"
                + " status VARCHAR(20) NOT NULL);"
                + "CREATE TABLE ledger_entry (id VARCHAR(36) PRIMARY KEY, stay_id BIGINT NOT NULL REFERENCES stay (id),"
                + " amount NUMERIC(8, 2) NOT NULL);");
        for (int i = 0; i < more; i++) {
            ddl.append("CREATE TABLE t" + i + " (id ${id}, name VARCHAR(20) UNIQUE);");
        }
        return ddl.toString().replace("${id}", engine.id);
    }

    private static void cancel(DataSource database, Object stay) throws Exception {
        try (Connection connection = database.getConnection();
                Statement statement = connection.createStatement()) {
            statement.executeUpdate("UPDATE stay SET status = 'CANCELLED' WHERE id = " + stay);
            statement.executeUpdate("INSERT INTO ledger_entry VALUES ('e', " + stay + ", -80)");
        }
    }

    private static DataSource database(Engine engine, int more) {
        DataSource database = engine.empty();
        Jdbc.dedicate(database);
        Jdbc.runSql(database, tables(engine, more));
        return database;
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void ofATest(Engine engine) throws Exception {
        List<Integer> few = counted(engine, 0, false);
        assertEquals(few, counted(engine, MANY, false), "with " + MANY + " tables more");
        assertTrue(few.get(2) <= 2 || !engine.isServer(), "around an act: " + few);
        assertTrue(few.get(0) == 1 || !engine.isServer(), "a mark: " + few);
        // MariaDB is told in a statement that a transaction begins
        int begun = engine == Engine.MARIADB ? 1 : 0;
        assertTrue(few.get(1) <= TABLES + 2 + begun || !engine.isServer(), "rows arranged: " + few);
        assertTrue(few.get(3) <= TABLES + 1 + 3 || !engine.isServer(), "a rewind: " + few);
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void inOneTransaction(Engine engine) throws Exception {
        List<Integer> few = counted(engine, 0, true);
        assertEquals(few, counted(engine, MANY, true), "with " + MANY + " tables more");
        assertTrue(few.get(0) <= 1, "a mark: " + few);
        assertTrue(few.get(3) <= 3, "a rewind: " + few);
    }

    /** A counter may be left where it is for a while, but not for the application to meet. */
    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void theApplicationFindsCountersWhereTheyWere(Engine engine) {
        DataSource database = database(engine, 0);
        try (Stage stage = Jdbc.stage(database)) {
            RewindPoint point = stage.mark();
            for (int round = 0; round < 3; round++) {
                stage.add(3, "region");
                stage.rewind(point);
                stage.act(() -> Engine.execute(database, "INSERT INTO region (name) VALUES ('Val Drun')"))
                        .expect()
                        .added("region", row("id", 1))
                        .nothingElse();
                stage.rewind(point);
                assertEquals(1L, stage.add("region").get("id"));
                stage.rewind(point);
            }
            stage.add(2, "region");
            stage.rewind(point);
        }
        Engine.execute(database, "INSERT INTO region (name) VALUES ('Rotbach')");
        try (Stage stage = Jdbc.stage(database)) {
            stage.expect("region").holdsOnly(row("id", 1));
        }
    }

    /** Returns how many statements a mark takes, rows arranged, an act and a rewind, once all has been done before. */
    private static List<Integer> counted(Engine engine, int more, boolean together) throws Exception {
        CountingDataSource counting = new CountingDataSource(database(engine, more));
        Factory<Row> huts =
                Factory.forTable("hut").children(2, Factory.forTable("stay").with("status", "CONFIRMED"));
        List<Integer> sent = List.of();
        try (Stage stage = together ? Jdbc.stageInTransaction(counting) : Jdbc.stage(counting)) {
            DataSource application = stage.dataSource();
            for (int round = 0; round < 3; round++) {
                counting.sent();
                RewindPoint point = stage.mark();
                int mark = counting.sent().size();
                Object key = stage.add(huts).get("id");
                boolean stays = together && (engine == Engine.MARIADB || engine == Engine.H2);
                assertTrue(stays || Long.valueOf(1).equals(key), () -> "counters go back: " + key);
                int arrange = counting.sent().size();
                Object stay = stage.rows("stay").get(0).get("id");
                int[] own = {0};
                counting.sent();
                Footprint footprint = stage.act(() -> {
                    own[0] = counting.sent().size();
                    cancel(application, stay);
                    counting.sent();
                });
                int act = own[0] + counting.sent().size();
                footprint
                        .expect()
                        .changed("stay", stay, row("status", "CANCELLED"))
                        .added("ledger_entry", row("amount", "-80.00"))
                        .nothingElse();
                assertEquals(List.of(), counting.sent());
                stage.rewind(point);
                sent = List.of(mark, arrange, act, counting.sent().size());
                stage.expect("hut").empty();
                counting.sent();
            }
        }
        return sent;
    }
}
