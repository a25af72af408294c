package dev.zabbet.jdbc;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertFalse;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Stage;
import dev.zabbet.error.UnknownNameException;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Bulk;
import dev.zabbet.factory.Factory;
import dev.zabbet.jdbc.internal.connect.PlainDataSource;
import dev.zabbet.jdbc.internal.connect.PreparingDataSource;
import dev.zabbet.row.Row;
import dev.zabbet.store.RewindPoint;
import java.io.File;
import java.io.IOException;
import java.io.PrintWriter;
import java.io.StringWriter;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import javax.sql.DataSource;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** Secrets, odd characters, full disks, triggers of others: what is said, and what stays as it was. */
class HostileTest {
    private static final String SECRET = "hush4711";

    /** URLs that fail in the driver, which repeats them. */
    @Test
    void secretsStayOutOfWhatIsSaid() {
        List<String> urls = List.of(
                "jdbc:postgresql://mira:" + SECRET + "@127.0.0.1:1/huts",
                "jdbc:postgresql://127.0.0.1:1/huts?user=mira&password=" + SECRET,
                "jdbc:postgresql://127.0.0.1:port/huts?sslpassword=" + SECRET,
                "jdbc:postgresql://mira:" + SECRET + "@127.0.0.1:port/huts",
                "jdbc:mariadb://mira:" + SECRET + "@127.0.0.1:1/huts",
                "jdbc:mariadb://127.0.0.1:1/huts?user=mira&password=" + SECRET,
                "jdbc:mariadb://127.0.0.1:port/huts?keyStorePassword=" + SECRET,
                "jdbc:mariadb://127.0.0.1:1/huts?trustStorePassword=" + SECRET + "&serverSslCert=/nowhere",
                "jdbc:sqlite:/nowhere/at/all/huts.db?password=" + SECRET,
                "jdbc:h2:tcp://127.0.0.1:1/huts;USER=mira;PASSWORD=" + SECRET,
                "jdbc:h2:/tmp/huts;PASSWORD=" + SECRET + ";NO_SUCH_SETTING=1",
                "jdbc:nosuchdatabase://mira:" + SECRET + "@somewhere/huts",
                "jdbc:nosuchdatabase://somewhere/huts?apiKey=" + SECRET,
                "nojdbc://mira:pa/ss@" + SECRET + "@somewhere/huts?token=" + SECRET);
        for (String url : urls) {
            for (DataSource source : List.of(Jdbc.dataSource(url, "", ""), Jdbc.dataSource(url, "mira", SECRET))) {
                StringWriter said = new StringWriter();
                assertThrows(ZabbetException.class, () -> Jdbc.stage(source)).printStackTrace(new PrintWriter(said));
                said.append(source.toString());
                try (Connection connection = source.getConnection()) {
                    said.append(connection.toString());
                } catch (SQLException | ZabbetException e) {
                    e.printStackTrace(new PrintWriter(said));
                }
                assertFalse(said.toString().contains(SECRET), () -> url + "\n" + said);
                assertFalse(said.toString().contains("mira:"), () -> url + "\n" + said);
            }
        }
    }

    @ParameterizedTest(allowZeroInvocations = true)
    @MethodSource("dev.zabbet.jdbc.Engine#servers")
    void theCommandThatIsSuggestedHasNoSecret(Engine engine) {
        String url = engine.emptyUrl()
                .replaceFirst("(user=\\w+)", "$1&sslpassword=" + SECRET + "&keyStorePassword=" + SECRET);
        String refusal = assertThrows(ZabbetException.class, () -> Jdbc.stage(Jdbc.dataSource(url, "", "")))
                .getMessage();
        assertTrue(refusal.contains("  zabbet dedicate --db jdbc:"), refusal);
        assertFalse(refusal.contains(SECRET), refusal);
    }

    /** Rows written as SQL hold the same after the database's own client has read the file. */
    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void rowsAsSqlSurviveTheClients(Engine engine, @TempDir Path folder) throws Exception {
        List<String> odd = new ArrayList<>(List.of(
                "cr\rlf\r\nnl\n\n",
                "\\g \\! echo x \\",
                "it's; -- no /* end */",
                "DELIMITER //\nx",
                "\u001b[2J\u0007\u007f",
                ".quit\n:name :'name' $1 ? {x}",
                "\u2028\u2029\ufeff\u0085 ä 🏔",
                "'\\u0041'",
                "tab\tend\\"));
        if (engine != Engine.POSTGRES) { // which keeps no NUL
            odd.add("a\0b'\\");
        }
        String ddl = "CREATE TABLE hut (id ${id}, name VARCHAR(200) NOT NULL);";
        Path file = folder.resolve("huts.sql");
        try (Stage stage = Jdbc.stage(engine.fresh(ddl))) {
            StringWriter sql = new StringWriter();
            AtomicInteger next = new AtomicInteger();
            Factory<Row> huts = Factory.forTable("hut").invent("name", values -> odd.get(next.getAndIncrement()));
            Jdbc.writeInserts(stage, stage.planned(Bulk.of(odd.size(), huts)), sql);
            Files.writeString(file, sql.toString());
        }
        DataSource other = engine.fresh(ddl);
        run(engine, other, file);
        try (Stage stage = Jdbc.stage(other)) {
            stage.expect("hut")
                    .holdsOnly(odd.stream().map(name -> row("name", name)).toList());
        }
    }

    /** By the database's own client where there is one beside the server. */
    private static void run(Engine engine, DataSource database, Path file) throws IOException, InterruptedException {
        if (!engine.isServer()) {
            Jdbc.runSql(database, Files.readString(file));
            return;
        }
        String url = Engine.urlOf(database);
        Matcher parts = Pattern.compile("jdbc:\\w+://([^:/]+):?(\\d*)/([^?]*)\\?user=(\\w+)(?:&password=(\\w+))?.*")
                .matcher(url);
        assertTrue(parts.matches(), url);
        List<String> command = engine == Engine.POSTGRES
                ? List.of(
                        "psql",
                        "-q",
                        "-v",
                        "ON_ERROR_STOP=1",
                        "-h",
                        parts.group(1),
                        "-p",
                        parts.group(2).isEmpty() ? "5432" : parts.group(2),
                        "-U",
                        parts.group(4),
                        "-d",
                        parts.group(3),
                        "-f",
                        file.toString())
                : List.of(
                        "mariadb",
                        "-h" + parts.group(1),
                        "-P" + (parts.group(2).isEmpty() ? "3306" : parts.group(2)),
                        "-u" + parts.group(4),
                        parts.group(3));
        boolean installed = Stream.of(System.getenv("PATH").split(File.pathSeparator))
                .anyMatch(folder -> Files.isExecutable(Path.of(folder, command.get(0))));
        if (!installed) {
            Jdbc.runSql(database, Files.readString(file));
            return;
        }
        ProcessBuilder client = new ProcessBuilder(command).redirectErrorStream(true);
        String password = parts.group(5);
        if (password != null) {
            client.environment().put(engine == Engine.POSTGRES ? "PGPASSWORD" : "MYSQL_PWD", password);
        }
        if (engine == Engine.MARIADB) {
            client.redirectInput(file.toFile());
        }
        Process process = client.start();
        String said = new String(process.getInputStream().readAllBytes());
        assertEquals(0, process.waitFor(), said);
    }

    /** A SQLite database that may not grow any further stands for a disk that is full. */
    @Test
    void aFullDiskIsSaidAndARewindCanBeCalledAgain(@TempDir Path folder) throws Exception {
        String url = "jdbc:sqlite:" + folder.resolve("huts.db");
        AtomicInteger most = new AtomicInteger(1_000_000);
        DataSource database = new PlainDataSource() {
            @Override
            public Connection getConnection() throws SQLException {
                Connection connection = Jdbc.dataSource(url, "", "").getConnection();
                limit(connection);
                return connection;
            }

            @Override
            public Connection getConnection(String user, String password) throws SQLException {
                return getConnection();
            }

            private void limit(Connection connection) throws SQLException {
                PreparingDataSource.run(connection, List.of("PRAGMA max_page_count = " + most.get()));
            }
        };
        Jdbc.dedicate(database);
        Engine.execute(
                database,
                "CREATE TABLE hut (id INTEGER PRIMARY KEY, name TEXT NOT NULL)",
                "INSERT INTO hut (name) VALUES ('" + "x".repeat(60_000) + "')");
        Stage stage = Jdbc.stage(database);
        RewindPoint point = stage.mark();
        for (int i = 0; i < 30; i++) {
            Engine.execute(database, "INSERT INTO hut (name) VALUES ('" + "y".repeat(3_000) + "')");
        }
        Engine.execute(database, "UPDATE hut SET name = 'short'", "DELETE FROM hut WHERE id > 5", "VACUUM");
        stage.onEachConnection("PRAGMA max_page_count = 1"); // as many as there are now
        String full = assertThrows(
                        ZabbetException.class,
                        () -> stage.addMany(500, Factory.forTable("hut").with("name", "z".repeat(2_000))))
                .getMessage();
        assertTrue(
                full.startsWith("Rows of hut cannot be stored, and nothing was: the disk is full. The database says: "),
                full);
        stage.expect("hut").count(5);
        String failed =
                assertThrows(ZabbetException.class, () -> stage.rewind(point)).getMessage();
        assertTrue(
                failed.startsWith("The database cannot be rewound: the disk is full. The database says: ")
                        && failed.endsWith(
                                "\nWhat is to be undone stays written down. Once the cause is gone, call rewind again:"
                                        + " that is safe, and so is the next stage, which undoes it too."),
                failed);
        stage.expect("hut").count(5);
        stage.onEachConnection("PRAGMA max_page_count = 1000000");
        stage.rewind(point);
        stage.expect("hut").holdsOnly(row("name", "x".repeat(60_000)));
        stage.close();
        assertTrue(new File(folder.toFile(), "huts.db").exists());
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void aTriggersOwnRefusalIsSaidToBeItsOwn(Engine engine) {
        if (engine == Engine.H2) {
            return; // its triggers are classes of the application
        }
        DataSource database = engine.fresh("CREATE TABLE hut (id ${id}, name VARCHAR(20) NOT NULL);"
                + "CREATE TABLE trace (said VARCHAR(20) NOT NULL, CONSTRAINT no_trace CHECK (said <> 'never'));");
        Engine.execute(
                database,
                switch (engine) {
                    case POSTGRES ->
                        new String[] {
                            "CREATE FUNCTION told() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN INSERT INTO trace VALUES"
                                    + " (coalesce(current_setting('app.word', true), 'never')); RETURN NEW; END $$",
                            "CREATE TRIGGER told AFTER INSERT ON hut FOR EACH ROW EXECUTE FUNCTION told()"
                        };
                    case MARIADB ->
                        new String[] {
                            "CREATE TRIGGER told AFTER INSERT ON hut FOR EACH ROW INSERT INTO trace VALUES (COALESCE(@word,"
                                    + " 'never'))"
                        };
                    default ->
                        new String[] {
                            "CREATE TRIGGER told AFTER INSERT ON hut BEGIN INSERT INTO trace VALUES ('never'); END"
                        };
                });
        try (Stage stage = Jdbc.stage(database)) {
            String refusal =
                    assertThrows(ZabbetException.class, () -> stage.add("hut")).getMessage();
            assertTrue(
                    refusal.endsWith(
                            "\nThat is no constraint of hut: its trigger told did this. What a trigger needs to find"
                                    + " in its session is prepared by stage.onEachConnection(…)."),
                    refusal);
            if (engine.isServer()) {
                stage.onEachConnection(engine == Engine.POSTGRES ? "SET app.word = 'yes'" : "SET @word = 'yes'");
                stage.add("hut");
                stage.act(() -> Engine.execute(stage.dataSource(), "INSERT INTO hut (name) VALUES ('x')"))
                        .expect()
                        .added("trace", row("said", "yes"))
                        .added("hut", row("name", "x"))
                        .nothingElse();
            }
        }
    }

    /** Of very many tables the nearest are named, and not all; odd characters are shown as escapes. */
    @Test
    void unknownNamesAmongVeryMany() {
        StringBuilder ddl = new StringBuilder();
        for (int i = 0; i < 164; i++) {
            ddl.append("CREATE TABLE hut_").append(i).append(" (id INT PRIMARY KEY);");
        }
        try (Stage stage = Jdbc.embeddedSql(ddl.toString())) {
            assertEquals(
                    "There is no table named 'hut_1644'. Did you mean 'hut_144'? There are 164; the nearest: hut_144, hut_104,"
                            + " hut_114, hut_124, hut_134.",
                    assertThrows(UnknownNameException.class, () -> stage.add("hut_1644"))
                            .getMessage());
            assertTrue(assertThrows(UnknownNameException.class, () -> stage.add("\u001b[2Jhut"))
                    .getMessage()
                    .startsWith("There is no table named '\\u001b[2Jhut'."));
        }
    }
}
