package dev.zabbet.spring;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;
import static org.junit.platform.engine.discovery.DiscoverySelectors.selectClass;

import dev.zabbet.Stage;
import dev.zabbet.factory.Factory;
import dev.zabbet.junit.Staged;
import dev.zabbet.spring.huts.HutsApplication;
import dev.zabbet.spring.huts.Stays;
import java.util.List;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import javax.sql.DataSource;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.MethodOrderer;
import org.junit.jupiter.api.RepeatedTest;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestMethodOrder;
import org.junit.platform.testkit.engine.EngineTestKit;
import org.springframework.beans.factory.annotation.Autowired;
import org.springframework.boot.test.autoconfigure.jdbc.JdbcTest;
import org.springframework.boot.test.autoconfigure.orm.jpa.DataJpaTest;
import org.springframework.boot.test.autoconfigure.orm.jpa.TestEntityManager;
import org.springframework.boot.test.context.SpringBootTest;
import org.springframework.context.ApplicationContext;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.context.annotation.Primary;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.jdbc.datasource.DataSourceTransactionManager;
import org.springframework.jdbc.datasource.embedded.EmbeddedDatabaseBuilder;
import org.springframework.jdbc.datasource.embedded.EmbeddedDatabaseType;
import org.springframework.test.annotation.DirtiesContext;
import org.springframework.test.context.ContextConfiguration;
import org.springframework.test.context.jdbc.Sql;
import org.springframework.test.context.junit.jupiter.SpringJUnitConfig;
import org.springframework.transaction.PlatformTransactionManager;
import org.springframework.transaction.annotation.Transactional;

/** Slices of the application, contexts made by hand, and what is refused; each a class that this one runs. */
class SlicesTest {
    private static final Set<Integer> CONTEXTS = ConcurrentHashMap.newKeySet();

    private static void passes(int tests, Class<?>... classes) {
        var results = EngineTestKit.engine("junit-jupiter")
                .selectors(List.of(classes).stream()
                        .map(type -> selectClass(type))
                        .toArray(org.junit.platform.engine.discovery.ClassSelector[]::new))
                .execute()
                .allEvents();
        results.failed().stream().forEach(failed -> {
            throw new AssertionError(
                    failed.getTestDescriptor().toString(),
                    failed.getRequiredPayload(org.junit.platform.engine.TestExecutionResult.class)
                            .getThrowable()
                            .orElseThrow());
        });
        assertEquals(
                tests,
                results.succeeded().stream()
                        .filter(event -> event.getTestDescriptor().isTest())
                        .count());
    }

    private static String failure(Class<?> type) {
        return EngineTestKit.engine("junit-jupiter")
                .selectors(selectClass(type))
                .execute()
                .allEvents()
                .failed()
                .stream()
                .findFirst()
                .orElseThrow()
                .getRequiredPayload(org.junit.platform.engine.TestExecutionResult.class)
                .getThrowable()
                .map(SlicesTest::innermost)
                .orElseThrow();
    }

    private static String innermost(Throwable thrown) {
        Throwable at = thrown;
        while (at.getCause() != null && !(at instanceof dev.zabbet.error.ZabbetException)) {
            at = at.getCause();
        }
        return String.valueOf(at.getMessage());
    }

    @Test
    void persistenceSlices() {
        CONTEXTS.clear();
        passes(5, OfPersistence.class, WithoutAStage.class);
        assertEquals(1, CONTEXTS.size(), "the stage's bean needs no context of its own");
    }

    @DataJpaTest
    @ContextConfiguration(classes = HutsApplication.class)
    @Staged
    static class OfPersistence {
        @Autowired
        ApplicationContext context;

        @Autowired
        TestEntityManager entities;

        @Autowired
        Stays stays;

        @BeforeAll
        static void once(Stage stage) {
            stage.add("letter"); // for all tests of the class
        }

        @RepeatedTest(2)
        void worksInTheRolledBackTransaction(Stage stage) {
            CONTEXTS.add(System.identityHashCode(context));
            stage.expect("letter").count(1);
            var added = stage.add("stay");
            var loaded = entities.find(dev.zabbet.spring.huts.Stay.class, added.get("id"));
            assertEquals(added.get("nights"), (long) loaded.getNights());
            stage.act(() -> stays.delete(loaded))
                    .expect()
                    .removed("stay", loaded.getId())
                    .nothingElse();
            assertEquals(0, stays.count());
        }

        @Test
        @Sql(statements = "INSERT INTO letter (text) VALUES ('by a script')")
        void seesWhatScriptsStored(Stage stage) {
            stage.expect("letter").count(2);
        }
    }

    @DataJpaTest
    @ContextConfiguration(classes = HutsApplication.class)
    static class WithoutAStage {
        @Autowired
        ApplicationContext context;

        @Test
        void hasTheSameContext() {
            CONTEXTS.add(System.identityHashCode(context));
        }

        @Test
        void isGivenNone(@Autowired org.springframework.beans.factory.ObjectProvider<Stage> stage) {
            assertEquals(
                    "A stage is injected into test classes annotated with @Staged only, and none runs on this thread."
                            + " Annotate the class, or take the stage as a parameter of the test method.",
                    innermost(org.junit.jupiter.api.Assertions.assertThrows(Exception.class, stage::getObject)));
        }
    }

    @Test
    void jdbcSlicesAndContextsThatGo() {
        passes(5, OfJdbc.class, Dirtied.class);
    }

    @JdbcTest
    @ContextConfiguration(classes = HutsApplication.class)
    @Staged
    static class OfJdbc {
        private final Stage stage;
        private final JdbcClient client;

        OfJdbc(@Autowired Stage stage, @Autowired JdbcClient client) {
            this.stage = stage;
            this.client = client;
        }

        @RepeatedTest(2)
        void works() {
            stage.expect("hut").count(1);
            stage.act(() -> client.sql("UPDATE hut SET beds = 30").update())
                    .expect()
                    .changed("hut", 1, row("beds", 30))
                    .nothingElse();
        }
    }

    @JdbcTest
    @ContextConfiguration(classes = HutsApplication.class)
    @Staged
    @DirtiesContext(classMode = DirtiesContext.ClassMode.AFTER_EACH_TEST_METHOD)
    static class Dirtied {
        @RepeatedTest(3)
        void hasAStageOnEachContext(Stage stage) {
            stage.expect("letter").count(0);
            stage.add("letter");
        }
    }

    /** The row document of each holds while the test's transaction is open, and not after it. */
    @Test
    void whatHasToHoldAfterEachTest() {
        passes(1, Expecting.class);
        assertTrue(
                failure(NotExpecting.class).startsWith("letter holds no row; 1 expected."),
                failure(NotExpecting.class));
    }

    @JdbcTest
    @ContextConfiguration(classes = HutsApplication.class)
    @Staged(expect = "/db/one-letter.yaml")
    static class Expecting {
        @Test
        void storesALetter(Stage stage) {
            stage.add(Factory.forTable("letter").with("text", "Come up"));
        }
    }

    @JdbcTest
    @ContextConfiguration(classes = HutsApplication.class)
    @Staged(expect = "/db/one-letter.yaml")
    static class NotExpecting {
        @Test
        void storesNone(Stage stage) {}
    }

    /** Classes of one context run at the same time, and take turns at its database. */
    @Test
    void parallelClassesTakeTurns() {
        var tests = EngineTestKit.engine("junit-jupiter")
                .configurationParameter("junit.jupiter.execution.parallel.enabled", "true")
                .configurationParameter("junit.jupiter.execution.parallel.mode.classes.default", "concurrent")
                .configurationParameter("junit.jupiter.execution.parallel.config.strategy", "fixed")
                .configurationParameter("junit.jupiter.execution.parallel.config.fixed.parallelism", "3")
                .selectors(selectClass(One.class), selectClass(Two.class), selectClass(Three.class))
                .execute()
                .testEvents();
        assertEquals(List.of(), tests.failed().stream().map(Object::toString).toList());
        assertEquals(12, tests.succeeded().count());
    }

    @SpringBootTest(classes = HutsApplication.class)
    @Staged
    abstract static class Parallel {
        @RepeatedTest(4)
        void findsNothingOfTheOthers(Stage stage) throws InterruptedException {
            stage.expect("letter").count(0);
            stage.add(2, "letter");
            Thread.sleep(20);
            stage.expect("letter").count(2);
        }
    }

    static class One extends Parallel {}

    static class Two extends Parallel {}

    static class Three extends Parallel {}

    @Configuration
    static class TwoDatabases {
        static DataSource database(String name) {
            return new EmbeddedDatabaseBuilder()
                    .setType(EmbeddedDatabaseType.H2)
                    .generateUniqueName(true)
                    .setScriptEncoding("UTF-8")
                    .addScript("db/" + name + ".sql")
                    .build();
        }

        @Bean
        DataSource huts() {
            return database("huts");
        }

        @Bean
        DataSource weather() {
            return database("weather");
        }
    }

    @Configuration
    static class OnePrimary extends TwoDatabases {
        @Bean
        @Primary
        @Override
        DataSource huts() {
            return database("huts");
        }

        @Bean
        PlatformTransactionManager transactions(DataSource huts) {
            return new DataSourceTransactionManager(huts);
        }
    }

    @Test
    void severalDatabases() {
        passes(4, Primary1.class, Named.class);
        assertEquals(
                "@Staged on " + Unnamed.class.getName()
                        + " finds 2 DataSources in the application context, huts, weather, and none is primary. Name one:"
                        + " @Staged(dataSource = \"huts\").",
                failure(Unnamed.class));
        assertEquals(
                "@Staged on " + Misnamed.class.getName()
                        + " names the DataSource hut; the application context has huts, weather.",
                failure(Misnamed.class));
    }

    @Staged
    @SpringJUnitConfig(OnePrimary.class)
    @Transactional
    static class Primary1 {
        @RepeatedTest(2)
        void isTaken(Stage stage, @Autowired DataSource huts) {
            assertEquals(huts, stage.dataSource());
            stage.expect("hut").count(0);
            stage.add("hut");
        }
    }

    @Staged(dataSource = "weather")
    @SpringJUnitConfig(OnePrimary.class)
    @Transactional // of the other database
    @TestMethodOrder(MethodOrderer.MethodName.class)
    static class Named {
        @RepeatedTest(2)
        void isTaken(Stage stage) {
            stage.expect("report").count(0);
            stage.add("report");
        }
    }

    @Staged
    @SpringJUnitConfig(TwoDatabases.class)
    static class Unnamed {
        @Test
        void isRefused(Stage stage) {}
    }

    @Staged(dataSource = "hut")
    @SpringJUnitConfig(TwoDatabases.class)
    static class Misnamed {
        @Test
        void isRefused(Stage stage) {}
    }

    @Configuration
    static class NoDatabase {}

    @Staged
    @SpringJUnitConfig(NoDatabase.class)
    static class WithoutADatabase {
        @Test
        void isRefused(Stage stage) {}
    }

    @Test
    void aContextWithoutADatabase() {
        assertEquals(
                "@Staged on " + WithoutADatabase.class.getName()
                        + " looks for a DataSource in the application context, and there is none. A slice of the application"
                        + " that leaves data access out needs no stage, or one of its own: @Staged(\"/db/schema.sql\") in a"
                        + " class without Spring, or Memory.stage(…) with fakes.",
                failure(WithoutADatabase.class));
    }
}
