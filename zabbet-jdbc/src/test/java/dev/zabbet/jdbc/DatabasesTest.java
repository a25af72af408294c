package dev.zabbet.jdbc;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import java.io.BufferedReader;
import java.io.InputStreamReader;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.TreeSet;
import java.util.concurrent.Callable;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.stream.Stream;
import javax.sql.DataSource;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** Tests that run at the same time get a database each, which others use again after them. */
class DatabasesTest {
    private static final String DDL = "CREATE TABLE region (id ${id}, name VARCHAR(40) NOT NULL UNIQUE);"
            + "CREATE TABLE hut (id ${id}, region_id BIGINT NOT NULL REFERENCES region (id), beds INT NOT NULL);"
            + "INSERT INTO region (name) VALUES ('Val Drun');";

    private static Stream<Engine> all() {
        return Engine.all();
    }

    /** H2's databases in memory belong to one process. */
    private static Stream<Engine> lasting() {
        return Engine.all().filter(e -> e != Engine.H2);
    }

    /** A test process: so many stages one after another, each of which has to find its database as it was made. */
    static final class Fork {
        public static void main(String[] arguments) throws Exception {
            Databases databases = Databases.besideSql(arguments[0], "", "", arguments[1]);
            for (int i = 0; i < Integer.parseInt(arguments[2]); i++) {
                try (Stage stage = databases.stage()) {
                    use(stage);
                    System.out.println("used " + stage.dataSource());
                }
            }
            Stage left = databases.stage();
            left.add(5, "hut");
            System.out.println("left " + left.dataSource());
            Runtime.getRuntime().halt(1);
        }
    }

    private static void use(Stage stage) {
        stage.expect("hut").empty();
        stage.expect("region").count(1);
        assertEquals(1, stage.add("hut").get("id", Integer.class), "the counter");
        Engine.execute(
                stage.dataSource(),
                "INSERT INTO hut (region_id, beds) VALUES (1, 7)",
                "UPDATE region SET name = 'other' WHERE id = 1");
        stage.expect("hut").count(2);
    }

    @ParameterizedTest
    @MethodSource("all")
    void threadsGetADatabaseEachAndUseThemAgain(Engine engine) throws Exception {
        Databases databases = databases(engine, engine.emptyUrl(), DDL);
        DataSource[] opened = new DataSource[1];
        try (Stage pooled = databases
                .opening(url -> opened[0] = Jdbc.dataSource(url, engine == Engine.H2 ? "sa" : "", ""))
                .stage()) {
            assertEquals(opened[0], pooled.dataSource());
            use(pooled);
        }
        ExecutorService threads = Executors.newFixedThreadPool(4);
        try (Stage first = databases.stage();
                Stage second = databases.stage()) {
            assertTrue(!first.dataSource().toString().equals(second.dataSource().toString()));
            use(first);
            use(second);
        }
        try {
            Callable<List<String>> work = () -> {
                List<String> used = new ArrayList<>();
                for (int i = 0; i < 4; i++) {
                    try (Stage stage = databases.stage()) {
                        use(stage);
                        used.add(stage.dataSource().toString());
                    }
                }
                return used;
            };
            TreeSet<String> used = new TreeSet<>();
            for (Future<List<String>> done : threads.invokeAll(List.of(work, work, work, work))) {
                used.addAll(done.get());
            }
            assertTrue(used.size() <= 4 && used.first().contains("_1"), used::toString);
        } finally {
            threads.shutdown();
            databases.drop();
        }
    }

    @ParameterizedTest
    @MethodSource("lasting")
    void processesDoToo(Engine engine) throws Exception {
        String url = engine.emptyUrl();
        Databases databases = databases(engine, url, DDL);
        try {
            List<Process> forks = new ArrayList<>();
            for (int i = 0; i < 3; i++) {
                forks.add(new ProcessBuilder(
                                Path.of(System.getProperty("java.home"), "bin", "java")
                                        .toString(),
                                "-cp",
                                System.getProperty("java.class.path"),
                                Fork.class.getName(),
                                url,
                                DDL.replace("${id}", engine.id),
                                "3")
                        .redirectErrorStream(true)
                        .start());
            }
            for (Process fork : forks) {
                List<String> lines = new ArrayList<>();
                try (BufferedReader out =
                        new BufferedReader(new InputStreamReader(fork.getInputStream(), StandardCharsets.UTF_8))) {
                    out.lines().forEach(lines::add);
                }
                assertEquals(
                        4,
                        lines.stream()
                                .filter(l -> l.matches("(used|left) jdbc:.*"))
                                .count(),
                        lines::toString);
            }
            try (Stage stage = databases.stage()) {
                use(stage); // nothing is there of what the dead processes left
            }
        } finally {
            databases.drop();
        }
    }

    @ParameterizedTest
    @MethodSource("all")
    void aChangedScriptMakesThemAnewButNobodyElsesDatabaseIsTouched(Engine engine) {
        String url = engine.emptyUrl();
        Databases before = databases(engine, url, DDL);
        Databases after = databases(engine, url, DDL.replace("beds INT", "bunks INT"));
        try {
            try (Stage stage = before.stage();
                    Stage other = before.stage()) {
                stage.add("hut");
                other.add("hut");
            }
            try (Stage stage = after.stage()) {
                stage.add(Factory.forTable("hut").with("bunks", 12));
                assertTrue(stage.dataSource().toString().contains("_1"), stage::toString);
            }
            before.drop();
            try (Stage stage = after.stage()) {
                stage.expect("hut").empty();
            }
            after.drop();
            if (engine != Engine.H2) {
                String somebodys = url.replaceFirst("(zabbet_test_\\w+?)(\\.db)?(\\?|$)", "$1_1$2$3");
                if (engine.isServer()) {
                    Engine.execute(
                            Jdbc.dataSource(url, "", ""),
                            "CREATE DATABASE " + somebodys.replaceAll(".*/([^?]*).*", "$1"));
                }
                DataSource database = Jdbc.dataSource(somebodys, "", "");
                Engine.execute(database, "CREATE TABLE customer (id INT)", "INSERT INTO customer VALUES (1)");
                try (Stage stage = after.stage()) {
                    assertTrue(stage.dataSource().toString().contains("_2"), stage::toString);
                }
                after.drop();
                assertEquals(List.of("customer"), Jdbc.schema(database).tableNames());
                if (engine.isServer()) {
                    Engine.execute(
                            Jdbc.dataSource(url, "", ""),
                            "DROP DATABASE " + somebodys.replaceAll(".*/([^?]*).*", "$1"));
                }
            }
        } finally {
            after.drop();
        }
    }

    @ParameterizedTest
    @MethodSource("all")
    void aScriptThatFailsLeavesNothingBehind(Engine engine) {
        String url = engine.emptyUrl();
        Databases wrong = databases(engine, url, DDL + "CREATE TABEL hut (id INT);");
        ZabbetException refusal = assertThrows(ZabbetException.class, wrong::stage);
        assertTrue(
                refusal.getMessage().startsWith("SQL, line 1: statement 4 of 4 failed.\n  CREATE TABEL hut (id INT)"),
                refusal::getMessage);
        Databases right = databases(engine, url, DDL);
        try (Stage stage = right.stage()) {
            use(stage);
        } finally {
            right.drop();
        }
    }

    @ParameterizedTest
    @MethodSource("all")
    void tablesThatATestChangedAreMadeAgain(Engine engine) {
        String ddl = DDL.replace("${id}", engine.id);
        DataSource database = engine.empty();
        try (Stage stage = Jdbc.stageSql(database, ddl)) {
            stage.add(3, "hut");
            var outer = stage.mark();
            stage.add(2, "hut");
            Engine.execute(database, "UPDATE region SET name = 'Val Sut' WHERE id = 1", "DELETE FROM hut WHERE id = 2");
            var inner = stage.mark();
            var huts = stage.rows("hut");
            var schema = stage.schema();
            stage.add("hut");
            Engine.execute(
                    database,
                    "ALTER TABLE hut ADD COLUMN altitude_m INT",
                    "CREATE TABLE tour (id INT PRIMARY KEY)",
                    "INSERT INTO tour VALUES (1)");

            stage.rewind(inner);

            assertEquals(schema, stage.schema());
            assertEquals(huts, stage.rows("hut"));
            stage.expect("region").where("id", 1).holdsOnly(dev.zabbet.expect.Expected.row("name", "Val Sut"));
            assertEquals(6, stage.add("hut").get("id", Integer.class), "the counter");
            stage.rewind(inner);
            assertEquals(huts, stage.rows("hut"));

            Engine.execute(database, "DROP TABLE hut");
            stage.rewind(outer);
            stage.expect("hut").count(3);
            assertEquals(4, stage.add("hut").get("id", Integer.class), "the counter");
        }
        try (Stage stage = Jdbc.stage(database)) {
            stage.expect("hut").count(4);
        }
    }

    private static Databases databases(Engine engine, String url, String ddl) {
        return Databases.besideSql(url, engine == Engine.H2 ? "sa" : "", "", ddl.replace("${id}", engine.id));
    }
}
