package dev.zabbet.jdbc;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;
import static org.junit.jupiter.api.Assumptions.assumeTrue;

import com.zaxxer.hikari.HikariConfig;
import com.zaxxer.hikari.HikariDataSource;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.jdbc.internal.dialect.SchemaDraft;
import dev.zabbet.store.RewindPoint;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.TreeSet;
import java.util.function.Consumer;
import java.util.stream.Stream;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.Arguments;
import org.junit.jupiter.params.provider.EnumSource;
import org.junit.jupiter.params.provider.MethodSource;

/** A stage on an application's pool, set up in the ways that applications set one up; its connections stay as they were. */
class PoolsTest {
    private static final String TABLES = "CREATE TABLE hut (id ${id}, name VARCHAR(20) UNIQUE);"
            + "CREATE TABLE stay (id ${id}, hut_id BIGINT REFERENCES hut (id) ON DELETE CASCADE, nights INT)";

    static Stream<Arguments> pools() {
        List<Consumer<HikariConfig>> ways = List.of(
                c -> {},
                c -> c.setAutoCommit(false),
                c -> c.setTransactionIsolation("TRANSACTION_SERIALIZABLE"),
                c -> c.setTransactionIsolation("TRANSACTION_READ_COMMITTED"),
                c -> c.setMaximumPoolSize(2));
        return Engine.all().flatMap(e -> java.util.stream.IntStream.range(0, ways.size())
                .mapToObj(way -> Arguments.of(e, way, ways.get(way))));
    }

    private static HikariDataSource pool(Engine engine, Consumer<HikariConfig> setting) {
        HikariConfig config = new HikariConfig();
        config.setJdbcUrl(engine.emptyUrl());
        config.setUsername(engine == Engine.H2 ? "sa" : null);
        config.setMaximumPoolSize(4);
        config.setConnectionTimeout(3000);
        setting.accept(config);
        return new HikariDataSource(config);
    }

    private static HikariDataSource withTables(Engine engine, Consumer<HikariConfig> setting) {
        HikariDataSource pool = pool(engine, setting);
        Jdbc.dedicate(pool);
        Jdbc.runSql(pool, TABLES.replace("${id}", engine.id));
        return pool;
    }

    @ParameterizedTest(name = "{0}, way {1}")
    @MethodSource("pools")
    void stagesOnAPool(Engine engine, int way, Consumer<HikariConfig> setting) throws Exception {
        try (HikariDataSource pool = withTables(engine, setting)) {
            String before = settings(engine, pool);
            for (int round = 1; round <= 2; round++) {
                try (Stage stage = Jdbc.stage(pool)) {
                    stage.addMany(101, Factory.forTable("stay"));
                    RewindPoint point = stage.mark();
                    assertEquals(
                            5, stage.act(() -> application(pool)).changes().size(), "four rows deleted, one added");
                    stage.rewind(point);
                    stage.expect("stay").count(101L * round);
                }
            }
            assertEquals(before, settings(engine, pool), "the pool's connections are as they were");
        }
    }

    private static void application(HikariDataSource pool) throws SQLException {
        try (Connection connection = pool.getConnection();
                Statement statement = connection.createStatement()) {
            statement.execute("DELETE FROM stay WHERE id < 5");
            statement.execute("INSERT INTO hut (name) VALUES ('Sarn')");
            if (!connection.getAutoCommit()) {
                connection.commit();
            }
        }
    }

    /** What the connections of a pool are set to that a stage sets for itself, each different combination once. */
    private static String settings(Engine engine, HikariDataSource pool) throws SQLException {
        String sql =
                switch (engine) {
                    case H2 -> "SELECT LOCK_TIMEOUT()";
                    case SQLITE ->
                        "SELECT synchronous || foreign_keys || journal_mode || timeout FROM pragma_synchronous,"
                                + " pragma_foreign_keys, pragma_journal_mode, pragma_busy_timeout";
                    case POSTGRES ->
                        "SELECT concat(current_setting('synchronous_commit'), current_setting('session_replication_role'),"
                                + " current_setting('lock_timeout'), current_setting('search_path'))";
                    case MARIADB ->
                        "SELECT CONCAT(@@foreign_key_checks, @@unique_checks, @@check_constraint_checks, @@sql_mode,"
                                + " COALESCE(@zabbet_quiet, ''), COALESCE(@zabbet_rest, ''), @@innodb_lock_wait_timeout)";
                };
        List<Connection> all = new ArrayList<>();
        TreeSet<String> found = new TreeSet<>();
        try {
            for (int i = 0; i < pool.getMaximumPoolSize(); i++) {
                Connection connection = pool.getConnection();
                all.add(connection);
                String autoCommit = connection.getAutoCommit() + " ";
                SchemaDraft.each(connection, sql, rows -> found.add(autoCommit + rows.getString(1)));
            }
        } finally {
            for (Connection connection : all) {
                connection.close();
            }
        }
        return found.toString();
    }

    /** Its connection goes back to the pool with nothing of the transaction in it. */
    @ParameterizedTest(name = "{0}, way {1}")
    @MethodSource("pools")
    void aStageInOneTransaction(Engine engine, int way, Consumer<HikariConfig> setting) throws Exception {
        assumeTrue(engine != Engine.H2, "H2 has no stage in one transaction");
        try (HikariDataSource pool = withTables(engine, setting)) {
            String before = settings(engine, pool);
            for (int round = 1; round <= 2; round++) {
                try (Stage stage = Jdbc.stageInTransaction(pool)) {
                    stage.add(3, Factory.forTable("stay"));
                    RewindPoint point = stage.mark();
                    assertEquals(
                            1,
                            stage.act(() -> {
                                        try (Connection connection =
                                                        stage.dataSource().getConnection();
                                                Statement statement = connection.createStatement()) {
                                            connection.setAutoCommit(false);
                                            statement.execute("DELETE FROM stay WHERE nights IS NULL OR nights > -1");
                                            connection.rollback();
                                            statement.execute("INSERT INTO hut (name) VALUES ('Sarn')");
                                            connection.commit();
                                        }
                                    })
                                    .changes()
                                    .size());
                    stage.rewind(point);
                    stage.expect("stay").count(3);
                }
            }
            assertEquals(before, settings(engine, pool), "the pool's connections are as they were");
            try (Stage stage = Jdbc.stage(pool)) {
                stage.expect("stay").empty();
            }
        }
    }

    /** The connection that the first stage had lives on in the pool, and must not hold the lease any more. */
    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void theLeaseEndsWithTheStage(Engine engine) throws Exception {
        try (HikariDataSource pool = withTables(engine, c -> {})) {
            System.setProperty("zabbet.leaseSeconds", "0");
            Jdbc.stage(pool).close();
            try (Connection first = pool.getConnection();
                    Connection second = pool.getConnection();
                    Stage stage = Jdbc.stage(pool)) {
                assertTrue(first != second && stage.add("hut").get("id") != null);
                assertTrue(assertThrows(ZabbetException.class, () -> Jdbc.stage(pool))
                        .getMessage()
                        .startsWith("Another stage is open on the "));
            } finally {
                System.clearProperty("zabbet.leaseSeconds");
            }
        }
    }

    @ParameterizedTest
    @EnumSource(names = {"POSTGRES", "MARIADB"})
    void aPoolThatOnlyReads(Engine engine) {
        assumeTrue(Engine.all().anyMatch(e -> e == engine));
        try (HikariDataSource pool = pool(engine, c -> c.setReadOnly(true))) {
            String refused = assertThrows(ZabbetException.class, () -> Jdbc.dedicate(pool))
                    .getMessage();
            assertTrue(refused.contains("cannot be dedicated: its "), refused);
            assertTrue(refused.endsWith(" Nothing was written."), refused);
            assertEquals(0, Jdbc.schema(pool).tables().size());
        }
    }
}
