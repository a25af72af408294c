package dev.zabbet.jdbc;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.jdbc.internal.engine.Engines;
import java.io.IOException;
import java.io.InputStream;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import javax.sql.DataSource;
import org.h2.tools.Server;
import org.junit.jupiter.api.DynamicTest;
import org.junit.jupiter.api.TestFactory;

/** Ways to meet a database that is not for tests: in none of them is anything written. */
class WrongDatabaseTest {
    private static final String UNMARKED = "It is not dedicated to tests.";
    private static final String COPY = "It carries the mark of another database, so it is a copy";

    /** Makes a database that has to be refused. */
    private interface Way {
        DataSource make() throws Exception;
    }

    private record Case(String name, Way way, String says) {}

    @TestFactory
    Stream<DynamicTest> nothingIsWritten() {
        List<Case> cases = new ArrayList<>();
        if (Engine.all().anyMatch(e -> e == Engine.POSTGRES)) {
            postgres(cases);
        }
        if (Engine.all().anyMatch(e -> e == Engine.MARIADB)) {
            mariaDb(cases);
        }
        files(cases);
        return cases.stream().map(c -> DynamicTest.dynamicTest(c.name(), () -> refused(c)));
    }

    private static void refused(Case c) throws Exception {
        DataSource database = c.way().make();
        List<String> before = contents(database);
        for (org.junit.jupiter.api.function.Executable attempt : List.<org.junit.jupiter.api.function.Executable>of(
                () -> Jdbc.stage(database).close(),
                () -> Jdbc.stageInTransaction(database).close(),
                () -> Jdbc.runSql(database, "CREATE TABLE written (id INT)"))) {
            ZabbetException refusal = assertThrows(ZabbetException.class, attempt);

            assertTrue(
                    refusal.getMessage().contains(c.says())
                            || refusal.getMessage().contains("cannot be had on H2"),
                    () -> c.says() + "\n" + refusal.getMessage());
        }
        assertEquals(before, contents(database));
    }

    private static void both(List<Case> cases, Engine engine) {
        String name = engine.name() + ": ";
        cases.add(new Case(name + "holds rows", () -> withRows(engine.empty()), UNMARKED));
        cases.add(new Case(name + "is empty", engine::empty, "which holds no table yet. " + UNMARKED));
        cases.add(new Case(
                name + "has the mark's table without a mark",
                () -> sql(engine.fresh(""), "DELETE FROM " + mark(engine)),
                UNMARKED));
        cases.add(new Case(
                name + "has a table named like the mark's, with other columns",
                () -> sql(
                        engine.fresh(""),
                        "DROP TABLE " + mark(engine),
                        "CREATE TABLE " + mark(engine) + " (id INT PRIMARY KEY)"),
                UNMARKED));
        cases.add(new Case(
                name + "holds a mark for every database",
                () -> sql(engine.fresh(""), "UPDATE " + mark(engine) + " SET identity = '%'"),
                COPY));
        cases.add(new Case(
                name + "holds a mark made on another host",
                () -> sql(
                        engine.fresh(""),
                        "UPDATE " + mark(engine) + " SET identity = REPLACE(identity, '|', '|elsewhere.')"),
                COPY));
        cases.add(new Case(name + "is named like one in use", () -> dedicatedByMistake(engine, "huts_prod"), UNMARKED));
    }

    /** An empty one with such a name is not dedicated without its name. */
    private static DataSource dedicatedByMistake(Engine engine, String name) throws Exception {
        DataSource database = inUse(engine, name);
        ZabbetException refusal = assertThrows(ZabbetException.class, () -> Jdbc.dedicate(database));
        assertTrue(
                Pattern.compile(
                                "is named like one that is in use, so that it was not dedicated to tests\\. If all that it"
                                        + " holds may be lost, say so by its name:\n  zabbet dedicate --db '?jdbc:\\S+ --may-lose \\S+$")
                        .matcher(refusal.getMessage())
                        .find(),
                refusal::getMessage);
        return database;
    }

    private static DataSource inUse(Engine engine, String name) throws Exception {
        String url = engine.emptyUrl();
        if (!engine.isServer()) {
            return Jdbc.dataSource(url.replaceFirst("[^/]+\\.db", name + ".db"), "", "");
        }
        String unique = name + "_" + ProcessHandle.current().pid();
        sql(Jdbc.dataSource(url, "", ""), "CREATE DATABASE " + unique);
        Runtime.getRuntime().addShutdownHook(new Thread(() -> drop(url, unique)));
        return Jdbc.dataSource(url.replaceFirst("(//[^/]+/)[^?]*", "$1" + unique), "", "");
    }

    private static void drop(String url, String name) {
        String server = (url.contains("postgresql") ? Engine.POSTGRES : Engine.MARIADB)
                .server()
                .orElseThrow();
        Engine.execute(Jdbc.dataSource(server, "", ""), "DROP DATABASE IF EXISTS " + name);
    }

    private static void postgres(List<Case> cases) {
        Engine engine = Engine.POSTGRES;
        both(cases, engine);
        cases.add(new Case(
                "POSTGRES: has the mark in another schema",
                () -> sql(
                        engine.fresh(""),
                        "CREATE TABLE public.dedicated AS TABLE zabbet.dedicated",
                        "CREATE TABLE public.zabbet_dedicated AS TABLE zabbet.dedicated",
                        "DROP SCHEMA zabbet CASCADE",
                        "ALTER DATABASE CURRENT SET search_path = public"),
                UNMARKED));
        cases.add(new Case(
                "POSTGRES: is a copy made from a dedicated template",
                () -> other("CREATE DATABASE %2$s TEMPLATE %1$s", engine.fresh("")),
                COPY));
        cases.add(new Case(
                "POSTGRES: was renamed", () -> other("ALTER DATABASE %1$s RENAME TO %2$s", engine.fresh("")), COPY));
        cases.add(new Case("POSTGRES: was dropped, made again and restored from a dump", () -> restored(engine), COPY));
        cases.add(new Case("POSTGRES: is reached through a tunnel", () -> tunnel(withRows(engine.empty())), UNMARKED));
        cases.add(new Case(
                "POSTGRES: accepts only reading",
                () -> sql(engine.fresh(""), "ALTER DATABASE CURRENT SET default_transaction_read_only = on"),
                "its transactions are read-only"));
        cases.add(new Case("POSTGRES: does not let the user see the mark", WrongDatabaseTest::blind, UNMARKED));
        cases.add(new Case("POSTGRES: another URL is listed", () -> listed(withRows(engine.empty())), UNMARKED));
    }

    private static void mariaDb(List<Case> cases) {
        Engine engine = Engine.MARIADB;
        both(cases, engine);
        cases.add(new Case(
                "MARIADB: another database of the server has the mark",
                () -> {
                    engine.fresh("");
                    return withRows(engine.empty());
                },
                UNMARKED));
        cases.add(new Case(
                "MARIADB: holds the copied mark of another database",
                () -> {
                    String from = name(engine.fresh(""));
                    return sql(
                            engine.empty(),
                            "CREATE TABLE zabbet_dedicated AS SELECT * FROM " + from + ".zabbet_dedicated");
                },
                COPY));
        cases.add(new Case("MARIADB: was restored from a dump under the same name", () -> restoredHere(engine), COPY));
        cases.add(new Case("MARIADB: is reached through a tunnel", () -> tunnel(withRows(engine.empty())), UNMARKED));
        cases.add(new Case(
                "MARIADB: accepts only reading",
                () -> Jdbc.dataSource(engine.emptyUrl() + "&sessionVariables=tx_read_only=1", "", ""),
                "read-only, as a replica is"));
    }

    private static void files(List<Case> cases) {
        both(cases, Engine.SQLITE);
        cases.add(new Case("SQLITE: is a copy of the file", () -> moved(Files::copy), COPY));
        cases.add(new Case("SQLITE: a copy took its place under the same path", () -> copied("sqlite", ".db"), COPY));
        cases.add(new Case("H2: a copy took its place under the same path", () -> copied("h2", ".mv.db"), COPY));
        cases.add(new Case("SQLITE: was moved", () -> moved(Files::move), COPY));
        cases.add(new Case(
                "SQLITE: a link leads elsewhere",
                () -> {
                    Path somebodys = file(withRows(Engine.SQLITE.empty()));
                    Path link = file(Engine.SQLITE.fresh(""));
                    Files.delete(link);
                    Files.createSymbolicLink(link, somebodys);
                    return Jdbc.dataSource("jdbc:sqlite:" + link, "", "");
                },
                UNMARKED));
        cases.add(new Case(
                "SQLITE: is opened for reading",
                () -> Jdbc.dataSource("jdbc:sqlite:" + file(Engine.SQLITE.fresh("")) + "?open_mode=1", "", ""),
                "its connections are read-only"));
        cases.add(new Case(
                "H2: a database in the memory of a server, which may be another process",
                () -> {
                    Server server = Server.createTcpServer("-tcpPort", "0", "-ifNotExists")
                            .start();
                    return withRows(Jdbc.dataSource(
                            "jdbc:h2:tcp://localhost:" + server.getPort() + "/mem:huts;DB_CLOSE_DELAY=-1", "sa", ""));
                },
                UNMARKED));
        cases.add(new Case(
                "H2: a file named like memory",
                () -> withRows(Jdbc.dataSource(
                        "jdbc:h2:file:" + Files.createTempDirectory("zabbet").resolve("mem") + ";DB_CLOSE_DELAY=0",
                        "sa",
                        "")),
                UNMARKED));
    }

    private static DataSource blind() throws Exception {
        DataSource database = Engine.POSTGRES.ofPlainOwner("");
        sql(database, "CREATE TABLE hut (id INT)", "REVOKE ALL ON SCHEMA zabbet FROM zabbet_plain");
        return database;
    }

    /** The name of the listed one is the beginning of this one's. */
    private static DataSource listed(DataSource database) throws SQLException {
        try (Connection connection = database.getConnection()) {
            String url = Engines.of(connection).place(connection).url();
            System.setProperty("zabbet.dedicated", url.replaceFirst("(_\\d+)([?&]|$)", "$2") + " " + url.toUpperCase());
        }
        return database;
    }

    private static DataSource other(String statement, DataSource dedicated) {
        String name = name(dedicated);
        String url = Engine.POSTGRES.server().orElseThrow();
        sql(Jdbc.dataSource(url, "", ""), String.format(statement, name, name + "_other"));
        Runtime.getRuntime().addShutdownHook(new Thread(() -> drop(url, name + "_other")));
        return Jdbc.dataSource(url.replaceFirst("(//[^/]+/)[^?]*", "$1" + name + "_other"), "", "");
    }

    private static DataSource restored(Engine engine) throws SQLException {
        DataSource database = engine.fresh("");
        String mark = "";
        try (Connection connection = database.getConnection();
                Statement statement = connection.createStatement();
                ResultSet row = statement.executeQuery("SELECT identity FROM zabbet.dedicated")) {
            row.next();
            mark = row.getString(1);
        }
        String name = name(database);
        DataSource server = Jdbc.dataSource(Engine.POSTGRES.server().orElseThrow(), "", "");
        sql(server, "DROP DATABASE " + name);
        sql(server, "CREATE DATABASE " + name);
        return sql(
                database,
                "CREATE SCHEMA zabbet",
                "CREATE TABLE zabbet.dedicated (identity text NOT NULL PRIMARY KEY)",
                "INSERT INTO zabbet.dedicated VALUES ('" + mark + "')");
    }

    private static DataSource restoredHere(Engine engine) throws Exception {
        DataSource database = engine.fresh("");
        String mark = "";
        try (Connection connection = database.getConnection();
                Statement statement = connection.createStatement();
                ResultSet row = statement.executeQuery("SELECT identity FROM zabbet_dedicated")) {
            row.next();
            mark = row.getString(1);
        }
        Thread.sleep(1100); // tables know the second in which they were made
        String name = name(database);
        DataSource server = Jdbc.dataSource(Engine.MARIADB.server().orElseThrow(), "", "");
        sql(server, "DROP DATABASE " + name, "CREATE DATABASE " + name);
        return sql(
                database,
                "CREATE TABLE zabbet_dedicated (identity VARCHAR(500) NOT NULL PRIMARY KEY)",
                "INSERT INTO zabbet_dedicated VALUES ('" + mark + "')",
                "CREATE TABLE hut (id INT PRIMARY KEY)",
                "INSERT INTO hut VALUES (1)");
    }

    private interface Moving {
        Path from(Path from, Path to) throws IOException;
    }

    /** As a file that is copied into another container, or back from a backup. */
    private static DataSource copied(String product, String ending) throws Exception {
        Path folder = Files.createTempDirectory("zabbet");
        String url = "jdbc:" + product + ":" + folder.resolve("huts") + (product.equals("h2") ? "" : ending);
        DataSource database = Jdbc.dataSource(url, product.equals("h2") ? "sa" : "", "");
        Jdbc.dedicate(database);
        Jdbc.stage(database).close();
        withRows(database);
        Path file = folder.resolve("huts" + ending);
        Path aside = folder.resolve("aside");
        Files.move(file, aside); // it keeps its number, so that the copy gets another
        Files.copy(aside, file);
        return database;
    }

    private static DataSource moved(Moving moving) throws IOException {
        Path file = file(Engine.SQLITE.fresh("CREATE TABLE hut (id ${id});"));
        Path there = file.resolveSibling("elsewhere.db");
        moving.from(file, there);
        return Jdbc.dataSource("jdbc:sqlite:" + there, "", "");
    }

    private static Path file(DataSource sqlite) {
        return Path.of(sqlite.toString().replaceAll("^jdbc:sqlite:|\\?.*$", ""));
    }

    /** Passes bytes on to the server from a port of this machine. */
    private static DataSource tunnel(DataSource database) throws IOException {
        String url = database.toString();
        var server = Pattern.compile("//([^:/]+):(\\d+)/").matcher(url);
        assertTrue(server.find(), url);
        ServerSocket port = new ServerSocket(0, 10, InetAddress.getLoopbackAddress());
        start(() -> {
            while (true) {
                Socket near = port.accept();
                Socket far = new Socket(server.group(1), Integer.parseInt(server.group(2)));
                start(() -> pass(near, far));
                start(() -> pass(far, near));
            }
        });
        String through = url.replaceFirst("//[^/]+/", "//localhost:" + port.getLocalPort() + "/");
        String env = (url.contains("postgresql") ? Engine.POSTGRES : Engine.MARIADB)
                .server()
                .orElseThrow();
        return Jdbc.dataSource(through.replaceFirst("\\?.*", "") + env.replaceFirst("^[^?]*", ""), "", "");
    }

    private static void pass(Socket from, Socket to) throws IOException {
        try (from;
                to;
                InputStream in = from.getInputStream()) {
            in.transferTo(to.getOutputStream());
        }
    }

    private interface Io {
        void run() throws IOException;
    }

    private static void start(Io work) {
        Thread thread = new Thread(() -> {
            try {
                work.run();
            } catch (IOException e) {
                // the connection was closed
            }
        });
        thread.setDaemon(true);
        thread.start();
    }

    private static String mark(Engine engine) {
        return engine == Engine.POSTGRES ? "zabbet.dedicated" : "zabbet_dedicated";
    }

    private static String name(DataSource database) {
        return database.toString().replaceAll("^.*/([^/?]*)(\\?.*)?$", "$1");
    }

    private static DataSource withRows(DataSource database) {
        return sql(database, "CREATE TABLE hut (id INT PRIMARY KEY)", "INSERT INTO hut VALUES (1)");
    }

    private static DataSource sql(DataSource database, String... statements) {
        for (String statement : statements) {
            Engine.execute(database, statement.replace("DATABASE CURRENT", "DATABASE " + name(database)));
        }
        return database;
    }

    /** All tables that the connection sees, with how many rows each has. */
    private static List<String> contents(DataSource database) throws SQLException {
        List<String> contents = new ArrayList<>();
        try (Connection connection = database.getConnection();
                ResultSet tables = connection.getMetaData().getTables(connection.getCatalog(), null, "%", null)) {
            while (tables.next()) {
                contents.add(tables.getString("TABLE_SCHEM") + "." + tables.getString("TABLE_NAME"));
            }
        }
        return contents;
    }
}
