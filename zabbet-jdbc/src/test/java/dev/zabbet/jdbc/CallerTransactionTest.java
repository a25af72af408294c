package dev.zabbet.jdbc;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.jdbc.internal.store.CallerStore;
import dev.zabbet.jdbc.internal.store.CallerTransaction;
import dev.zabbet.row.Row;
import dev.zabbet.store.RewindPoint;
import dev.zabbet.store.Store;
import java.lang.reflect.Method;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** A stage inside transactions that a test framework begins and rolls back. */
class CallerTransactionTest {
    private static final String TABLES = "CREATE TABLE hut (id ${id}, name VARCHAR(40) NOT NULL);"
            + "CREATE TABLE stay (id ${id}, hut_id BIGINT NOT NULL REFERENCES hut (id), nights INT NOT NULL,"
            + " CONSTRAINT stay_nights CHECK (nights BETWEEN 1 AND 14))";

    /** What a framework does around a test method, and an object-relational mapper that holds statements back. */
    private static final class Framework implements CallerTransaction {
        private final DataSource database;
        private final ThreadLocal<@Nullable Open> open = new ThreadLocal<>();
        final List<String> heldBack = new ArrayList<>();
        int takenBack;

        Framework(DataSource database) {
            this.database = database;
        }

        void begin() throws SQLException {
            Connection connection = database.getConnection();
            connection.setAutoCommit(false);
            open.set(new Open(new Object(), connection));
        }

        void end(boolean commit) throws SQLException {
            try (Connection connection = connection()) {
                if (commit) {
                    connection.commit();
                } else {
                    connection.rollback();
                }
                connection.setAutoCommit(true);
            }
            open.remove();
            heldBack.clear();
        }

        Connection connection() {
            return open().orElseThrow().connection();
        }

        void run(String sql) throws SQLException {
            try (var statement = connection().createStatement()) {
                statement.execute(sql);
            }
        }

        @Override
        public Optional<Open> open() {
            return Optional.ofNullable(open.get());
        }

        @Override
        public void flush() {
            try {
                while (!heldBack.isEmpty()) {
                    run(heldBack.remove(0));
                }
            } catch (SQLException e) {
                throw new IllegalStateException(e);
            }
        }

        @Override
        public void takenBack() {
            takenBack++;
        }
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void aRolledBackTestLeavesNothing(Engine engine) throws SQLException {
        DataSource database = engine.fresh(TABLES);
        Framework framework = new Framework(database);
        try (Stage stage = CallerStore.stage(database, framework, Map.of())) {
            Row kept = stage.add("hut"); // outside, before all tests
            for (int test = 0; test < 3; test++) {
                RewindPoint start = stage.mark();
                framework.begin();
                Row stay = stage.add(Factory.forTable("stay").with("nights", 2));
                framework.heldBack.add("UPDATE stay SET nights = 3"); // before the act: none of its own
                stage.act(() -> framework.heldBack.add("UPDATE stay SET nights = 4 WHERE id = " + stay.get("id")))
                        .expect()
                        .changed("stay", stay.get("id"), row("nights", 4))
                        .nothingElse();
                stage.expect("stay").holdsOnly(row("nights", 4));
                RewindPoint within = stage.mark();
                stage.act(() -> framework.run("DELETE FROM stay"))
                        .expect()
                        .removed("stay", stay.get("id"))
                        .nothingElse();
                stage.actFailing(
                                IllegalStateException.class,
                                () -> framework.heldBack.add("INSERT INTO nowhere VALUES (1)"))
                        .expect()
                        .unchanged();
                stage.rewind(within);
                assertEquals(1, framework.takenBack);
                stage.expect("stay").holdsOnly(row("nights", 4));
                assertEquals(
                        "This point was noted outside of the transaction that the test runs in, which has to end before"
                                + " the rows can be brought back to it.",
                        assertThrows(ZabbetException.class, () -> stage.rewind(start))
                                .getMessage());
                framework.takenBack = 0;
                framework.end(false);
                stage.expect("stay").count(0);
                stage.expect("hut").holdsOnly(row("id", kept.get("id")));
                stage.rewind(start);
            }
            assertEquals(
                    "The transaction that this point was noted in is over; nothing of it can be brought back.",
                    assertThrows(ZabbetException.class, () -> stage.rewind(pointOfAnotherTest(stage, framework)))
                            .getMessage());
        }
    }

    private static RewindPoint pointOfAnotherTest(Stage stage, Framework framework) throws SQLException {
        framework.begin();
        try {
            return stage.mark();
        } finally {
            framework.end(false);
        }
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void whatIsCommittedGoesWithTheNextRewind(Engine engine) throws SQLException {
        DataSource database = engine.fresh(TABLES);
        Framework framework = new Framework(database);
        try (Stage stage = CallerStore.stage(database, framework, Map.of())) {
            stage.add(Factory.forTable("stay").with("nights", 5));
            for (int test = 0; test < 2; test++) {
                RewindPoint start = stage.mark();
                framework.begin();
                stage.add(2, "stay");
                if (engine != Engine.SQLITE) { // lets one write at a time
                    stage.act(() -> Engine.execute(database, "UPDATE hut SET name = 'beside' WHERE id = 1"));
                }
                framework.end(true);
                stage.expect("stay").count(3);
                stage.act(() -> Engine.execute(database, "UPDATE stay SET nights = 6 WHERE id = 1"))
                        .expect()
                        .changed("stay", 1, row("nights", 6))
                        .nothingElse();
                stage.rewind(start);
                stage.expect("stay").holdsOnly(row("nights", 5));
                stage.expect("hut").where("name", "beside").count(0);
            }
        }
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void onOtherThreadsAndAcrossItsEndsItIsRefused(Engine engine) throws SQLException {
        DataSource database = engine.fresh(TABLES);
        Framework framework = new Framework(database);
        try (Stage stage = CallerStore.stage(database, framework, Map.of())) {
            RewindPoint start = stage.mark();
            framework.begin();
            stage.add("stay");
            CompletionException elsewhere = assertThrows(CompletionException.class, () -> CompletableFuture.runAsync(
                            () -> stage.expect("stay").count(1))
                    .join());
            assertTrue(
                    String.valueOf(elsewhere.getCause().getMessage())
                            .endsWith("What it holds is seen there only: call the stage on that thread, or end the"
                                    + " transaction first."),
                    elsewhere.toString());
            stage.expect("stay").count(1);
            ZabbetException ended = assertThrows(ZabbetException.class, () -> stage.act(() -> framework.end(false)));
            assertEquals(
                    "The test's transaction ended inside the act, and the knowledge of what changed with it. End it before the"
                            + " act (with Spring: TestTransaction.end()).",
                    ended.getMessage());
            stage.rewind(start);
        }
    }

    /** A method that gets a default in {@code Store} would do nothing here, unless somebody thinks of it. */
    @Test
    void everythingElseIsPassedOn() {
        Set<String> own = Stream.of(CallerStore.class.getDeclaredMethods())
                .map(method -> method.getName() + List.of(method.getParameterTypes()))
                .collect(Collectors.toSet());
        assertEquals(
                List.of("discard", "rows"), // for fakes; and by read, as everywhere
                Stream.of(Store.class.getMethods())
                        .filter(method -> !own.contains(method.getName() + List.of(method.getParameterTypes())))
                        .map(Method::getName)
                        .sorted()
                        .toList());
    }
}
