package dev.zabbet.jdbc;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertNotSame;
import static org.junit.jupiter.api.Assertions.assertSame;
import static org.junit.jupiter.api.Assertions.assertThrows;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.jdbc.internal.connect.PlainDataSource;
import dev.zabbet.schema.Table;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Proxy;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.SQLTransientConnectionException;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.CyclicBarrier;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.Semaphore;
import javax.sql.DataSource;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** The way into a database: at the same time as others, from a small pool, with types that the database lacks. */
class OpeningTest {
    private static final String TABLES = "CREATE TABLE hut (id BIGINT PRIMARY KEY, name VARCHAR(40) NOT NULL);\n"
            + "CREATE TABLE stay (id BIGINT PRIMARY KEY, hut_id BIGINT NOT NULL REFERENCES hut (id));\n"
            + "INSERT INTO hut VALUES (1, 'Edelgrat')";

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void tablesAreMadeOnceByWhomeverComesFirst(Engine engine) throws Exception {
        for (int round = 0; round < 3; round++) {
            DataSource database = engine.empty();
            int comers = 4;
            CyclicBarrier together = new CyclicBarrier(comers);
            ExecutorService threads = Executors.newFixedThreadPool(comers);
            try {
                List<Future<Integer>> opened = new ArrayList<>();
                for (int i = 0; i < comers; i++) {
                    opened.add(threads.submit(() -> {
                        together.await();
                        try (Stage stage = Jdbc.stageSql(database, TABLES)) {
                            stage.expect("hut").where("id", 1).holdsOnly(row("name", "Edelgrat"));
                            return stage.add(2, Factory.forTable("stay")).size();
                        }
                    }));
                }
                int stays = 0;
                for (Future<Integer> one : opened) {
                    stays += one.get();
                }
                assertEquals(2 * comers, stays);
            } finally {
                threads.shutdownNow();
            }
        }
    }

    /** Whoever waits has read the tables before; the one that is waited for makes others. */
    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void tablesMadeWhileAStageWaitsAreKnownToIt(Engine engine) throws Exception {
        DataSource database = engine.fresh("CREATE TABLE hut (id BIGINT PRIMARY KEY, name VARCHAR(40) NOT NULL)");
        ExecutorService threads = Executors.newSingleThreadExecutor();
        Stage first = Jdbc.stage(database);
        try {
            Future<List<String>> second = threads.submit(() -> {
                try (Stage stage = Jdbc.stage(database)) {
                    List<String> known = stage.schema().tableNames();
                    stage.add("warden");
                    return known;
                }
            });
            Thread.sleep(1_000); // by then it waits
            Engine.execute(database, "CREATE TABLE warden (id BIGINT PRIMARY KEY, hut VARCHAR(40) NOT NULL)");
            first.close();
            assertEquals(List.of("hut", "warden"), second.get());
        } finally {
            first.close();
            threads.shutdownNow();
        }
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void theSchemaIsReadWholeWhileOthersMakeAndDropTables(Engine engine) throws Exception {
        DataSource database = engine.fresh("CREATE TABLE hut (id BIGINT PRIMARY KEY, name VARCHAR(40) NOT NULL)");
        ExecutorService threads = Executors.newSingleThreadExecutor();
        try {
            Future<?> other = threads.submit(() -> {
                for (int i = 0; i < 40; i++) {
                    Engine.execute(
                            database,
                            "CREATE TABLE warden (id BIGINT PRIMARY KEY, name VARCHAR(40) NOT NULL UNIQUE)",
                            "CREATE TABLE stay (id BIGINT PRIMARY KEY, warden BIGINT REFERENCES warden (id))",
                            "DROP TABLE stay",
                            "DROP TABLE warden");
                    Thread.sleep(5);
                }
                return true;
            });
            while (!other.isDone()) {
                for (Table table : Jdbc.schema(database).tables()) {
                    assertEquals(2, table.columns().size(), table.name());
                }
            }
            other.get();
        } finally {
            threads.shutdownNow();
        }
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void aPoolOfOneConnectionIsNamedAsTheTrouble(Engine engine) {
        DataSource database = engine.fresh("CREATE TABLE hut (id ${id}, name VARCHAR(40) NOT NULL)");
        ZabbetException refused = assertThrows(ZabbetException.class, () -> Jdbc.stage(new Pool(database, 1)));
        assertEquals(
                "The stage keeps one connection for itself, and the data source gives no second one for the code under"
                        + " test: none of 1 is free\nLet the pool hold one more.",
                refused.getMessage());
        Pool two = new Pool(database, 2);
        try (Stage stage = Jdbc.stage(two)) {
            stage.add(Factory.forTable("hut"));
        }
        assertEquals(2, two.free.availablePermits(), "all came back");
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void whatEachConnectionIsPreparedByGoesWithTheRewind(Engine engine) {
        try (Stage stage = Jdbc.stage(engine.fresh("CREATE TABLE hut (id ${id}, name VARCHAR(40) NOT NULL)"))) {
            DataSource plain = stage.dataSource();
            var point = stage.mark();
            stage.onEachConnection("SELECT 1");
            assertNotSame(plain, stage.dataSource());
            stage.rewind(point);
            assertSame(plain, stage.dataSource());
        }
    }

    record Hut(long id, boolean open, Boolean heated) {}

    interface Huts {
        List<Hut> findByOpen(boolean open);
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void truthValuesAreReadAsSuchWhateverTheyAreKeptAs(Engine engine) {
        String type = engine == Engine.MARIADB ? "TINYINT(1)" : "BOOLEAN";
        DataSource database =
                engine.fresh("CREATE TABLE hut (id ${id}, open " + type + " NOT NULL, heated " + type + " NOT NULL)");
        try (Stage stage = Jdbc.stage(database)) {
            Hut hut = stage.add(Factory.forType(Hut.class).with(Hut::open, true).with(Hut::heated, false));
            var stored = stage.rows("hut").get(0);
            assertEquals(true, stored.get("open", Boolean.class));
            assertEquals(false, stored.get("heated", boolean.class));
            Stage memory = Memory.stage(stage.schema());
            memory.add(
                    2, Factory.forType(Hut.class).inTurn(Hut::open, true, false).with(Hut::heated, false));
            assertEquals(List.of(hut), memory.fake(Huts.class).findByOpen(true));
            assertEquals(true, memory.rows("hut").get(0).get("open", Boolean.class));
        }
    }

    /** Gives so many connections and no more. */
    private static final class Pool extends PlainDataSource {
        private final DataSource real;
        private final int size;
        private final Semaphore free;

        Pool(DataSource real, int size) {
            this.real = real;
            this.size = size;
            this.free = new Semaphore(size);
        }

        @Override
        public Connection getConnection() throws SQLException {
            if (!free.tryAcquire()) {
                throw new SQLTransientConnectionException("none of " + size + " is free");
            }
            Connection connection = real.getConnection();
            return (Connection) Proxy.newProxyInstance(
                    Pool.class.getClassLoader(), new Class<?>[] {Connection.class}, (proxy, method, arguments) -> {
                        if (method.getName().equals("close") && !connection.isClosed()) {
                            free.release();
                        }
                        try {
                            return method.invoke(connection, arguments);
                        } catch (InvocationTargetException e) {
                            throw e.getCause();
                        }
                    });
        }

        @Override
        public Connection getConnection(String user, String password) throws SQLException {
            return getConnection();
        }
    }
}
