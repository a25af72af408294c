package dev.zabbet.jdbc;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.jdbc.internal.engine.Engines;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.CyclicBarrier;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.TimeUnit;
import java.util.stream.Stream;
import javax.sql.DataSource;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** Nothing is written to a database that is not meant for tests. */
class DedicationTest {
    private static final String[] TABLE_WITH_A_ROW = {
        "CREATE TABLE hut (id INT PRIMARY KEY, name VARCHAR(20))", "INSERT INTO hut VALUES (1, 'Edelgrat')"
    };

    /** Engines whose databases outlive the process. */
    private static Stream<Engine> lasting() {
        return Engine.all().filter(e -> e != Engine.H2);
    }

    @ParameterizedTest
    @MethodSource("lasting")
    void aDatabaseWithoutTheMarkIsRefusedAndLeftAsItIs(Engine engine) throws SQLException {
        DataSource database = engine.empty();
        Engine.execute(database, TABLE_WITH_A_ROW);
        List<String> before = tables(database);

        ZabbetException refusal = assertThrows(ZabbetException.class, () -> Jdbc.stage(database));

        assertTrue(
                refusal.getMessage()
                        .matches(
                                "(?s)Nothing was written to the \\w+ database \\S+ on [^,]+, which holds 1 table and 1 row\\."
                                        + " It is not dedicated to tests\\.\nIf it is meant for tests, and all that it holds may be"
                                        + " lost, dedicate it once:\n  zabbet dedicate --db '?jdbc:\\S+ --may-lose (\\S+)\nor in"
                                        + " code: Jdbc\\.dedicate\\(dataSource, \"\\1\"\\)\\."),
                refusal::getMessage);
        assertEquals(before, tables(database));
        assertEquals(List.of("hut"), Jdbc.schema(database).tableNames());
    }

    @ParameterizedTest
    @MethodSource("lasting")
    void oneThatHoldsRowsIsDedicatedOnlyByTheExplicitWord(Engine engine) throws SQLException {
        DataSource database = engine.empty();
        Engine.execute(database, TABLE_WITH_A_ROW);
        List<String> before = tables(database);
        ZabbetException refusal = assertThrows(ZabbetException.class, () -> Jdbc.dedicate(database));
        assertTrue(
                refusal.getMessage().contains("holds 1 table and 1 row, so that it was not dedicated"),
                refusal::getMessage);
        assertThrows(ZabbetException.class, () -> Jdbc.dedicate(database, "production"));
        assertEquals(before, tables(database));

        String name = refusal.getMessage().replaceFirst("(?s).*--may-lose ", "");
        Jdbc.dedicate(database, name);
        Jdbc.dedicate(engine.empty());
        try (Stage stage = Jdbc.stage(database)) {
            stage.expect("hut").count(1);
        }
    }

    /** Programs of a build that starts many at once all dedicate the database that is new. */
    @ParameterizedTest
    @MethodSource("lasting")
    void manyMayDedicateItAtOnce(Engine engine) throws Exception {
        int programs = 8;
        ExecutorService together = Executors.newFixedThreadPool(programs);
        try {
            for (int round = 0; round < 10; round++) {
                DataSource database = engine.empty();
                CyclicBarrier start = new CyclicBarrier(programs);
                List<Future<?>> all = new ArrayList<>();
                for (int i = 0; i < programs; i++) {
                    all.add(together.submit(() -> {
                        start.await();
                        Jdbc.dedicate(database);
                        return null;
                    }));
                }
                for (Future<?> one : all) {
                    one.get(60, TimeUnit.SECONDS);
                }
                Jdbc.stage(database).close();
            }
        } finally {
            together.shutdownNow();
        }
    }

    @ParameterizedTest
    @MethodSource("lasting")
    void aMarkThatWasCopiedAlongDoesNotCount(Engine engine) throws SQLException {
        DataSource original = engine.fresh("");
        DataSource copy = engine.empty();
        String mark = Engines.of(Engine.connect(original)).markTable();
        if (engine == Engine.POSTGRES) {
            Engine.execute(copy, "CREATE SCHEMA zabbet");
        }
        Engine.execute(copy, "CREATE TABLE " + mark + " (identity VARCHAR(500) NOT NULL PRIMARY KEY)");
        try (Connection from = Engine.connect(original);
                Statement statement = from.createStatement();
                ResultSet row = statement.executeQuery("SELECT identity FROM " + mark)) {
            row.next();
            Engine.execute(copy, "INSERT INTO " + mark + " VALUES ('" + row.getString(1) + "')");
        }
        ZabbetException refusal = assertThrows(ZabbetException.class, () -> Jdbc.stage(copy));
        assertTrue(
                refusal.getMessage().contains("It carries the mark of another database, so it is a copy"),
                refusal::getMessage);
        Jdbc.dedicate(copy);
        Jdbc.stage(copy).close();
    }

    @ParameterizedTest
    @MethodSource("lasting")
    void aListedUrlNeedsNoMark(Engine engine) throws SQLException {
        DataSource database = engine.empty();
        Engine.execute(database, TABLE_WITH_A_ROW);
        String url;
        try (Connection connection = Engine.connect(database)) {
            url = Engines.of(connection).place(connection).url();
        }
        System.setProperty("zabbet.dedicated", "jdbc:nothing:x " + url);
        try {
            Jdbc.stage(database).close();
        } finally {
            System.clearProperty("zabbet.dedicated");
        }
        assertThrows(ZabbetException.class, () -> Jdbc.stage(database));
    }

    @Test
    void anH2FileIsSomebodysUntilItIsMarked(@TempDir Path folder) throws Exception {
        DataSource file = Jdbc.dataSource("jdbc:h2:" + folder.resolve("huts"), "sa", "secret");
        Engine.execute(file, TABLE_WITH_A_ROW);
        ZabbetException refusal = assertThrows(ZabbetException.class, () -> Jdbc.stage(file));
        assertTrue(refusal.getMessage().contains("1 table and 1 row"), refusal::getMessage);
        assertTrue(!refusal.getMessage().contains("secret"), refusal::getMessage);
        Jdbc.dedicate(file, "huts");
        Jdbc.stage(file).close();

        Files.copy(folder.resolve("huts.mv.db"), folder.resolve("copy.mv.db"));
        DataSource copy = Jdbc.dataSource("jdbc:h2:" + folder.resolve("copy"), "sa", "secret");
        assertTrue(assertThrows(ZabbetException.class, () -> Jdbc.stage(copy))
                .getMessage()
                .contains("It carries the mark of another database"));
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void oneStageAtATime(Engine engine) {
        DataSource database = engine.fresh("CREATE TABLE hut (id ${id});");
        System.setProperty("zabbet.leaseSeconds", "1");
        try (Stage first = Jdbc.stage(database)) {
            ZabbetException refusal = assertThrows(ZabbetException.class, () -> Jdbc.stage(database));
            assertTrue(
                    refusal.getMessage().contains("held by another stage in this process; close it first"),
                    refusal::getMessage);
            first.add("hut");
        } finally {
            System.clearProperty("zabbet.leaseSeconds");
        }
        Jdbc.stage(database).close();
    }

    private static List<String> tables(DataSource database) throws SQLException {
        List<String> tables = new ArrayList<>();
        try (Connection connection = database.getConnection();
                ResultSet rows = connection.getMetaData().getTables(connection.getCatalog(), null, "%", null)) {
            while (rows.next()) {
                tables.add(rows.getString("TABLE_SCHEM") + "." + rows.getString("TABLE_NAME"));
            }
        }
        return tables;
    }
}
