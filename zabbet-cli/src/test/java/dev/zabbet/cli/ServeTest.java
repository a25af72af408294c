package dev.zabbet.cli;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertFalse;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.files.internal.JsonTree;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpRequest.BodyPublishers;
import java.net.http.HttpResponse.BodyHandlers;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Random;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.TimeUnit;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.condition.DisabledOnOs;
import org.junit.jupiter.api.condition.OS;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** {@code zabbet serve} as a process: what it prints, how it ends, and what it leaves when it is killed. */
class ServeTest {
    private static final String BASE = """
            tables:
              hut:
                edelgrat: {name: Edelgrat}
              room:
                attic: {hut_id: {row: edelgrat}, number: 1}
            """;
    private static final int KILLS = 8; // for each database

    @TempDir
    Path folder = Path.of("");

    /** A server that runs, as its first line tells. */
    private record Running(Process process, String url, String token) {
        static Running of(Process process) throws IOException {
            BufferedReader out =
                    new BufferedReader(new InputStreamReader(process.getInputStream(), StandardCharsets.UTF_8));
            Map<?, ?> told = (Map<?, ?>) Objects.requireNonNull(JsonTree.read(String.valueOf(out.readLine())));
            return new Running(process, (String) told.get("url"), (String) told.get("token"));
        }

        @Nullable
        Object ask(String method, String path, String yaml) throws Exception {
            HttpRequest request = HttpRequest.newBuilder(URI.create(url + path))
                    .header("Authorization", "Bearer " + token)
                    .header("Content-Type", "application/yaml")
                    .method(method, yaml.isEmpty() ? BodyPublishers.noBody() : BodyPublishers.ofString(yaml))
                    .build();
            String body = HttpClient.newHttpClient()
                    .send(request, BodyHandlers.ofString())
                    .body();
            return JsonTree.read(body);
        }

        String count(String table) throws Exception {
            return count("1", table);
        }

        String count(String stage, String table) throws Exception {
            return String.valueOf(ask("GET", "/stages/" + stage + "/rows?count=true&table=" + table, ""));
        }
    }

    private Running start(String url, String... more) throws Exception {
        String[] arguments =
                Stream.concat(Stream.of("serve", "--json"), Stream.of(more)).toArray(String[]::new);
        return Running.of(Commands.start(url, Files.createTempFile(folder, "serve", ".err"), arguments));
    }

    private String withBase(String engine) throws Exception {
        String url = Commands.database(engine, folder);
        Path file = Files.writeString(folder.resolve("base.yaml"), BASE);
        Commands.Outcome loaded = Commands.zabbet(url, "load", file.toString());
        assertEquals(0, loaded.status(), loaded.err());
        return url;
    }

    /** Whatever the server, its client or the application was doing: the next stage finds the database as it was. */
    @ParameterizedTest
    @ValueSource(strings = {"H2", "SQLITE", "POSTGRES", "MARIADB"})
    void theNextStartFindsTheDatabaseAsItWas(String engine) throws Exception {
        String url = withBase(engine) + (engine.equals("H2") ? ";AUTO_SERVER=TRUE" : "");
        Random random = new Random(engine.hashCode());
        String place = "";
        for (int kill = 0; kill < KILLS; kill++) {
            Running server = start(url);
            CompletableFuture<Void> client = CompletableFuture.runAsync(() -> work(server, url));
            Thread.sleep(random.nextInt(1_200));
            server.process().destroyForcibly();
            assertTrue(server.process().waitFor(20, TimeUnit.SECONDS));
            client.get(30, TimeUnit.SECONDS);
            place += " " + kill;
        }
        Running last = start(url);
        String id = openedAtLast(last);
        assertEquals("{table=hut, count=1}", last.count(id, "hut"), "after" + place);
        assertEquals("{table=room, count=1}", last.count(id, "room"));
        assertEquals("{table=stay, count=0}", last.count(id, "stay"));
        assertEquals("{table=guest, count=0}", last.count(id, "guest"));
        last.ask(
                "POST",
                "/stages/" + id + "/load",
                BASE.replace("edelgrat", "other").replace("Edelgrat", "Firnalp"));
        last.process().destroy();
        assertTrue(last.process().waitFor(20, TimeUnit.SECONDS));
        assertEquals(1, Commands.number(url, "SELECT COUNT(*) FROM hut"), "asked to end, it rewinds first");
    }

    /** Opens a stage, and returns its number. */
    private static String openedAtLast(Running server) throws Exception {
        String opened = String.valueOf(server.ask("POST", "/stages", ""));
        for (int i = 0; i < 20 && !opened.contains("id="); i++) {
            Thread.sleep(500); // H2's file is still held by whom it was opened for last
            opened = String.valueOf(server.ask("POST", "/stages", ""));
        }
        String id = opened.replaceFirst("^\\{id=(\\d+),.*", "$1");
        assertTrue(id.matches("\\d+"), opened);
        return id;
    }

    /** A client, and an application that writes behind the server's back, until the server is gone. */
    private static void work(Running server, String url) {
        try {
            server.ask("POST", "/stages", "");
            for (int round = 0; ; round++) {
                server.ask("POST", "/stages/1/rewind", "");
                server.ask(
                        "POST",
                        "/stages/1/load",
                        BASE.replace("edelgrat", "other").replace("Edelgrat", "Firnalp"));
                server.ask("POST", "/stages/1/act", "");
                Commands.execute(
                        url,
                        "INSERT INTO guest (full_name, email, password_hash) VALUES ('Ada', 'ada" + round
                                + "@huts.example', 'x'); DELETE FROM room; UPDATE hut SET beds = 5");
                server.ask("POST", "/stages/1/act/end", "");
            }
        } catch (Exception e) {
            if (server.process().isAlive() && !String.valueOf(e).contains("closed")) {
                try {
                    server.process().waitFor(2, TimeUnit.SECONDS); // is about to end
                } catch (InterruptedException stopped) {
                    Thread.currentThread().interrupt();
                }
            }
        }
    }

    /** An application that is killed in the middle of a transaction, in the middle of an act, has left what it committed. */
    @ParameterizedTest
    @ValueSource(strings = {"H2", "POSTGRES", "MARIADB"})
    void anApplicationThatIsKilledIsNotWaitedFor(String engine) throws Exception {
        String url = withBase(engine) + (engine.equals("H2") ? ";AUTO_SERVER=TRUE" : "");
        Running server = start(url);
        server.ask("POST", "/stages", "");
        for (int round = 0; round < 3; round++) {
            server.ask("POST", "/stages/1/act", "");
            Process application = application(url);
            application.destroyForcibly();
            assertTrue(application.waitFor(20, TimeUnit.SECONDS));
            String left = String.valueOf(server.ask("POST", "/stages/1/act/end", ""));
            assertTrue(left.contains("full_name=Ada") && !left.contains("Bea") && !left.contains("table=room"), left);
            String rewound = String.valueOf(server.ask("POST", "/stages/1/rewind", ""));
            assertEquals("{actGivenUp=false}", rewound);
            assertEquals("{table=guest, count=0}", server.count("guest"));
            assertEquals("{table=room, count=1}", server.count("room"));
        }
        server.process().destroy();
        assertTrue(server.process().waitFor(20, TimeUnit.SECONDS));
    }

    /** Starts an application, and returns when it has written. */
    private static Process application(String url, String... more) throws Exception {
        List<String> command = new ArrayList<>(List.of(
                Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                "-XX:TieredStopAtLevel=1",
                "-cp",
                System.getProperty("java.class.path"),
                WritingApplication.class.getName(),
                url));
        command.addAll(List.of(more));
        Process application =
                new ProcessBuilder(command).redirectErrorStream(true).start();
        assertEquals("written", application.inputReader().readLine());
        return application;
    }

    private static final class Counts {
        int rewound;
        int refused;
    }

    /** Beside an application that goes on writing a rewind may be refused; it never loses sight of what was written. */
    @ParameterizedTest
    @ValueSource(strings = {"H2", "SQLITE", "POSTGRES", "MARIADB"})
    void nothingIsLeftOfAnApplicationThatGoesOnWriting(String engine) throws Exception {
        String url = withBase(engine) + (engine.equals("H2") ? ";AUTO_SERVER=TRUE" : "");
        Random random = new Random(engine.hashCode());
        long beds = Commands.number(url, "SELECT beds FROM hut");
        Counts counts = new Counts();
        Running server = start(url);
        server.ask("POST", "/stages", "");
        for (int round = 0; round < 3; round++) {
            server.ask("POST", "/stages/1/act", "");
            server.ask("POST", "/stages/1/act/end", ""); // from now on changes are noted
            Process application = application(url, "go on");
            long end = System.nanoTime() + (300 + random.nextInt(500)) * 1_000_000L;
            while (System.nanoTime() < end) {
                String rewound = String.valueOf(server.ask("POST", "/stages/1/rewind", ""));
                if (rewound.equals("{actGivenUp=false}")) {
                    counts.rewound++;
                } else {
                    counts.refused++;
                    assertTrue(rewound.contains("Let the code under test"), rewound);
                }
            }
            application.destroyForcibly();
            assertTrue(application.waitFor(20, TimeUnit.SECONDS));
            if (round == 1) {
                server.process().destroyForcibly();
                assertTrue(server.process().waitFor(20, TimeUnit.SECONDS));
                server = start(url);
                openedAtLast(server);
            } else {
                assertEquals("{actGivenUp=false}", String.valueOf(server.ask("POST", "/stages/1/rewind", "")));
            }
            assertEquals("{table=guest, count=0}", server.count("guest"), "round " + round);
            assertEquals("{table=room, count=1}", server.count("room"));
            assertEquals(beds, Commands.number(url, "SELECT beds FROM hut"), "round " + round);
        }
        assertTrue(counts.rewound > 0, counts.refused + " rewinds were refused, and none came through");
        System.out.println(
                engine + ": " + counts.rewound + " rewinds came through, " + counts.refused + " were refused");
        server.process().destroy();
        assertTrue(server.process().waitFor(20, TimeUnit.SECONDS));
    }

    /** The tests that started it may end in any way. */
    @Test
    @DisabledOnOs(OS.WINDOWS)
    void itEndsWithTheProgramThatStartedIt() throws Exception {
        String url = withBase("H2") + ";AUTO_SERVER=TRUE";
        Path out = folder.resolve("out.json");
        ProcessBuilder parent = new ProcessBuilder(
                "sh",
                "-c",
                "\"$0\" -cp \"$1\" dev.zabbet.cli.Zabbet serve --json > \"$2\" & sleep 600",
                Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                System.getProperty("java.class.path"),
                out.toString());
        parent.environment().put("ZABBET_DB", url);
        Process shell = parent.start();
        while (!Files.exists(out) || !Files.readString(out).endsWith("\n")) {
            assertTrue(shell.isAlive());
            Thread.sleep(50);
        }
        List<ProcessHandle> children = shell.children().toList();
        Map<?, ?> told = (Map<?, ?>) Objects.requireNonNull(JsonTree.read(Files.readString(out)));
        Running server = new Running(shell, (String) told.get("url"), (String) told.get("token"));
        server.ask("POST", "/stages", "");
        server.ask("POST", "/stages/1/load", BASE.replace("edelgrat", "other").replace("Edelgrat", "Firnalp"));
        assertEquals("{table=hut, count=2}", server.count("hut"));

        shell.destroyForcibly();
        for (ProcessHandle child : children) {
            if (child.info().command().orElse("").endsWith("java")) {
                child.onExit().get(20, TimeUnit.SECONDS);
            } else {
                child.destroy();
            }
        }
        assertEquals(1, Commands.number(url, "SELECT COUNT(*) FROM hut"));
    }

    @Test
    void itTellsWhatItOffersAndRefusesWhatItCannot() throws Exception {
        String url = Commands.database("H2", folder);
        Path script = Commands.EXAMPLES.resolve("db/huts.sql");
        Commands.ENVIRONMENT.put("ZABBET_TOKEN", "only-for-these-tests");
        try {
            Path err = Files.createTempFile(folder, "serve", ".err");
            Process process = Commands.start(url, err, "serve", "--script", script.toString());
            BufferedReader out =
                    new BufferedReader(new InputStreamReader(process.getInputStream(), StandardCharsets.UTF_8));
            StringBuilder said = new StringBuilder();
            for (int line = 0; line < 6; line++) {
                said.append(out.readLine()).append('\n');
            }
            assertTrue(
                    said.toString()
                            .matches("Stages are served at (http://127\\.0\\.0\\.1:\\d+)\n"
                                    + "  token   that of ZABBET_TOKEN\n"
                                    + "  stages  a database each, made by .*huts\\.sql\n\n"
                                    + "Ask it: curl -H \"Authorization: Bearer \\$ZABBET_TOKEN\" \\1/openapi\\.json\n"
                                    + "It ends with Ctrl\\+C, or with the program that started it\\.\n"),
                    said::toString);
            assertFalse(said.toString().contains("only-for-these-tests"));
            process.destroy();
            assertTrue(process.waitFor(20, TimeUnit.SECONDS));
            assertEquals("", Files.readString(err));

            Commands.ENVIRONMENT.put("ZABBET_TOKEN", "short");
            assertRefused(
                    "ZABBET_TOKEN cannot be used. The token has at least 16 characters, printable ones of ASCII without blanks;"
                            + " it has 5 characters.",
                    url);
        } finally {
            Commands.ENVIRONMENT.remove("ZABBET_TOKEN");
        }
        assertRefused("A port is a number from 0 to 65535; it was 70000.", url, "--port", "70000");
        assertRefused("At least one stage", url, "--stages", "0");
        assertRefused("The time 'idle' has to be longer than nothing", url, "--idle", "0");
        assertRefused("nowhere.sql", url, "--script", "nowhere.sql");
        Running first = start(url);
        String port = first.url().replaceAll(".*:", "");
        assertRefused("Port " + port + " on 127.0.0.1 cannot be had", url, "--port", port);
        first.process().destroy();
        assertTrue(Commands.zabbet(url, "serve", "--openapi").out().startsWith("{\n  \"openapi\" : \"3.1.0\""));
    }

    private static void assertRefused(String message, String url, String... arguments) throws Exception {
        String[] all = Stream.concat(Stream.of("serve"), Stream.of(arguments)).toArray(String[]::new);
        Commands.Outcome outcome = Commands.zabbet(url, all);
        assertEquals(2, outcome.status(), outcome.out());
        assertTrue(outcome.err().contains(message), outcome.err());
    }
}
