package dev.zabbet.serve;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.jdbc.Databases;
import dev.zabbet.jdbc.Jdbc;
import dev.zabbet.serve.DocumentedClient.Answer;
import dev.zabbet.serve.internal.StageHandler;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.Set;
import java.util.TreeSet;
import java.util.UUID;
import java.util.concurrent.CompletableFuture;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import javax.sql.DataSource;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** Stages as a test in another language has them. */
class StageServerTest {
    static final String TABLES =
            "CREATE TABLE hut (id INT PRIMARY KEY, name VARCHAR(40) NOT NULL UNIQUE, token VARCHAR(20));"
                    + " CREATE TABLE stay (id INT PRIMARY KEY, hut_id INT NOT NULL REFERENCES hut (id), nights INT NOT NULL,"
                    + " status VARCHAR(20) NOT NULL)";
    private static final String TWO_STAYS = """
            tables:
              hut:
                edelgrat: {id: 1, name: Edelgrat, token: abc}
              stay:
                first: {id: 1, hut_id: {row: edelgrat}, nights: 2, status: CONFIRMED}
                second: {id: 2, hut_id: {row: edelgrat}, nights: 3, status: CONFIRMED}
            """;

    static String inMemory() {
        return "jdbc:h2:mem:serve_" + UUID.randomUUID().toString().substring(0, 8) + ";DB_CLOSE_DELAY=-1";
    }

    static DataSource prepared(String url) {
        DataSource database = Jdbc.dataSource(url, "", "");
        Jdbc.stageSql(database, TABLES).close();
        return database;
    }

    static void execute(DataSource database, String sql) throws SQLException {
        try (Connection connection = database.getConnection();
                Statement statement = connection.createStatement()) {
            statement.execute(sql);
        }
    }

    private static Stream<String> servers() {
        String postgres = System.getenv("ZABBET_TEST_POSTGRES");
        return postgres == null ? Stream.of(inMemory()) : Stream.of(inMemory(), postgres);
    }

    @Test
    void theDocumentSaysWhatTheServerDoes() throws Exception {
        DataSource database = prepared(inMemory());
        try (StageServer server = StageServer.inTurns(database, "jdbc:h2:mem:huts", ServeSettings.usual())) {
            DocumentedClient client = new DocumentedClient(server);
            Set<String> own = new StageHandler(null, null, null)
                    .operations().stream()
                            .map(one -> one.getKey() + " " + one.getValue())
                            .collect(Collectors.toCollection(TreeSet::new));
            assertEquals(own, client.operations());

            Answer stage = client.post("/stages", "{\"variation\": 7}");
            assertEquals(201, stage.status());
            assertEquals("jdbc:h2:mem:huts", stage.text("/url"));
            assertEquals(7, stage.body().get("variation").asInt());
            String own1 = "/stages/" + stage.text("/id");
            assertEquals(1, client.get("/stages").body().at("/stages").size());

            Answer loaded = client.postYaml(own1 + "/load", TWO_STAYS);
            assertEquals("{\"hut\":1,\"stay\":2}", loaded.body().get("stored").toString());
            assertEquals(3, loaded.body().at("/rows/stay/second/nights").asInt());
            assertEquals(
                    201, client.post(own1 + "/points", "{\"name\": \"base\"}").status());

            assertEquals(201, client.post(own1 + "/act").status());
            execute(database, "UPDATE stay SET status = 'CANCELLED' WHERE id = 2");
            execute(database, "INSERT INTO hut VALUES (9, 'Firnalp', NULL)");
            execute(database, "DELETE FROM stay WHERE id = 1");
            Answer left = client.post(own1 + "/act/end");
            assertEquals("stay", left.text("/changes/1/table"));
            assertEquals("Firnalp", left.text("/changes/0/added/name"));
            assertEquals(
                    "CONFIRMED",
                    left.text("/changes/2/removed/status"),
                    left.body().toPrettyString());
            assertEquals("[\"status\"]", left.body().at("/changes/1/changed").toString());
            assertEquals(
                    left.body().get("changes"),
                    client.get(own1 + "/footprint").body().get("changes"));

            Answer holds = client.postYaml(own1 + "/expect", """
                    footprint:
                      hut: {added: [{name: Firnalp}]}
                      stay:
                        changed: [{key: 2, to: {status: CANCELLED}}]
                        removed: [{id: 1}]
                    expect:
                      stay: {count: 1}
                    """);
            assertTrue(holds.body().get("holds").asBoolean(), holds.body().toPrettyString());
            Answer fails = client.post(
                    own1 + "/expect",
                    "{\"footprint\": {\"hut\": {\"added\": [{\"name\": \"Edelgrat\"}]}}, \"expect\": {\"stay\": {\"count\": 3}}}");
            assertEquals("false", fails.text("/holds"));
            assertEquals(2, fails.body().get("failures").size(), fails.body().toPrettyString());
            assertTrue(fails.text("/report").startsWith("2 of 2 expectations do not hold."), fails.text("/report"));
            assertTrue(
                    fails.text("/failures/1/report").startsWith("stay holds 1 row; 3 expected."),
                    fails.text("/report"));

            Answer rows = client.get(own1 + "/rows?table=hut&where=name%3C%3EFirnalp&order=-id");
            assertEquals(
                    "[{\"id\":1,\"name\":\"Edelgrat\"}]",
                    rows.body().get("rows").toString());
            assertEquals("[\"token\"]", rows.body().get("hidden").toString());
            assertEquals(
                    "abc", client.get(own1 + "/rows?table=hut&all=true&first=1").text("/rows/0/token"));
            assertEquals(
                    "1",
                    client.get(own1 + "/rows?table=stay&count=true&where=nights%20between%203%20and%204")
                            .text("/count"));
            assertEquals(
                    "{\"hut\":5,\"stay\":5}",
                    client.post(own1 + "/add", "{\"rows\": {\"stay\": 5}}")
                            .body()
                            .get("stored")
                            .toString());
            assertEquals(
                    "2031-07-01T09:30:00Z",
                    client.call("PATCH", own1, "application/json", "{\"advance\": \"PT90M\", \"variation\": 2}")
                            .text("/now"));
            assertEquals(
                    "7",
                    client.post(own1 + "/clear", "{\"tables\": [\"stay\", \"hut\"]}")
                            .text("/deleted/hut"));
            client.post(own1 + "/rewind", "{\"to\": \"base\"}");
            Answer back = client.get(own1);
            assertEquals("2031-07-01T08:00:00Z", back.text("/now"));
            assertEquals(7, back.body().get("variation").asInt(), "as it was opened");
            assertEquals("[\"base\"]", back.body().get("points").toString());
            assertEquals("2", client.get(own1 + "/rows?table=stay&count=true").text("/count"));
            assertEquals(409, client.get(own1 + "/footprint").status(), "no act since it was rewound");

            client.get("/openapi.json");
            client.get("/openapi.yaml");
            assertEquals(204, client.call("DELETE", own1, "", "").status());
            assertEquals(
                    "Stage 1 was closed: its client closed it. POST /stages opens another.",
                    client.get(own1).text("/detail"));
            assertEquals(client.operations(), client.called, "each was called");
        }
        assertEquals(0, Jdbc.stage(database).rows("hut").size(), "all is as it was");
    }

    /** What a client does in the wrong order, or wrongly, is told, and changes nothing. */
    @Test
    void mistakesAreTold() throws Exception {
        DataSource database = prepared(inMemory());
        try (StageServer server = StageServer.inTurns(
                database, "jdbc:h2:mem:huts", ServeSettings.usual().waiting(Duration.ofMillis(300)))) {
            DocumentedClient client = new DocumentedClient(server);
            client.post("/stages");
            assertEquals(
                    "409 Another stage of this server holds the database and was not closed within 0 seconds. Close it by"
                            + " DELETE /stages/{id}, or start the server with --script, so that each stage gets a database of its"
                            + " own.",
                    told(client.post("/stages")));
            assertEquals(
                    "409 POST /stages/1/act begins one; there is none to be ended.",
                    told(client.post("/stages/1/act/end")));
            assertEquals(
                    "422 There is no point of that name. None was set: POST /stages/1/points sets one.",
                    told(client.post("/stages/1/rewind", "{\"to\": \"base\"}")));
            assertEquals(
                    "422 There is no table named 'sty'. Did you mean 'stay'? Known: hut, stay.",
                    told(client.get("/stages/1/rows?table=sty")));
            assertEquals(
                    "422 \"nights wide\" is no condition.",
                    told(client.get("/stages/1/rows?table=stay&where=nights%20wide"))
                            .replaceFirst("(?s)(condition\\.).*", "$1"));
            assertEquals(
                    "400 There is no parameter named 'wher'. Did you mean 'where'?",
                    told(client.get("/stages/1/rows?table=stay&wher=x")).replaceFirst("\\?.*", "?"));
            String refused = told(client.postYaml("/stages/1/load", "tables:\n  hut: [{nme: x}]\n"));
            assertTrue(
                    refused.startsWith("422 The seed cannot be stored, and nothing of it was: 1 thing is wrong."),
                    refused);
            client.post("/stages/1/act");
            execute(database, "INSERT INTO hut VALUES (9, 'Firnalp', NULL)");
            assertEquals(
                    "409 An act of this stage has begun and not ended. End it first, by POST /stages/1/act/end.",
                    told(client.post("/stages/1/act")));
            assertEquals(
                    "409 An act of this stage has begun and not ended. End it by POST /stages/1/act/end, or give it up by"
                            + " rewinding.",
                    told(client.postYaml("/stages/1/load", TWO_STAYS)));
            assertEquals("1", client.get("/stages/1/rows?table=hut&count=true").text("/count"), "looking is allowed");
            assertEquals("true", client.post("/stages/1/rewind").text("/actGivenUp"));
            assertEquals("0", client.get("/stages/1/rows?table=hut&count=true").text("/count"));
            assertEquals(201, client.post("/stages/1/act").status(), "and the next can begin");
        }
    }

    private static String told(Answer answer) {
        return answer.status() + " " + answer.text("/detail");
    }

    /** A stage whose client has vanished, in the middle of an act too, is rewound, and the next one gets the database. */
    @ParameterizedTest
    @MethodSource("servers")
    void aClientThatVanishesLeavesNothing(String url) throws Exception {
        Databases databases = Databases.besideSql(url, "", "", TABLES);
        ServeSettings settings = ServeSettings.usual().closingAfter(Duration.ofMillis(400));
        try (StageServer server =
                StageServer.sideBySide(databases, place -> Jdbc.dataSource(place, "", ""), settings)) {
            DocumentedClient client = new DocumentedClient(server);
            String place = client.post("/stages").text("/url");
            client.postYaml("/stages/1/load", TWO_STAYS);
            client.post("/stages/1/act");
            execute(Jdbc.dataSource(place, "", ""), "INSERT INTO hut VALUES (9, 'Firnalp', NULL)");
            for (int i = 0;
                    i < 100 && client.get("/stages").body().get("stages").size() > 0;
                    i++) {
                Thread.sleep(100);
            }
            assertEquals(
                    "404 Stage 1 was closed: nothing was asked of it for 400 milliseconds, so that its client was taken for"
                            + " gone. POST /stages opens another.",
                    told(client.get("/stages/1")));
            Answer next = client.post("/stages");
            assertEquals(place, next.text("/url"), "the same database");
            assertEquals("0", client.get("/stages/2/rows?table=hut&count=true").text("/count"));
        }
        databases.drop();
    }

    /** Each has a database of its own, and what one does is not in another's footprint. */
    @ParameterizedTest
    @MethodSource("servers")
    void stagesSideBySideDoNotMeet(String url) throws Exception {
        Databases databases = Databases.besideSql(url, "", "", TABLES);
        try (StageServer server = StageServer.sideBySide(
                databases,
                place -> Jdbc.dataSource(place, "", ""),
                ServeSettings.usual().withStages(3))) {
            DocumentedClient client = new DocumentedClient(server);
            Set<String> places = new TreeSet<>();
            for (int i = 1; i <= 3; i++) {
                places.add(client.post("/stages").text("/url"));
            }
            assertEquals(3, places.size());
            assertTrue(told(client.post("/stages")).startsWith("503 All 3 stages are open"));
            CompletableFuture<?>[] all = Stream.of(1, 2, 3)
                    .map(number -> CompletableFuture.runAsync(() -> {
                        try {
                            actAlone(server, number);
                        } catch (Exception e) {
                            throw new AssertionError(e);
                        }
                    }))
                    .toArray(CompletableFuture[]::new);
            CompletableFuture.allOf(all).join();
        }
        databases.drop();
    }

    private static void actAlone(StageServer server, int number) throws Exception {
        DocumentedClient client = new DocumentedClient(server);
        String own = "/stages/" + number;
        DataSource database = Jdbc.dataSource(client.get(own).text("/url"), "", "");
        for (int round = 0; round < 5; round++) {
            client.post(own + "/rewind");
            client.post(own + "/act");
            execute(database, "INSERT INTO hut VALUES (" + number + ", 'Hut " + number + "', NULL)");
            Answer left = client.post(own + "/act/end");
            assertEquals(1, left.body().get("changes").size(), left.body().toPrettyString());
            assertEquals("Hut " + number, left.text("/changes/0/added/name"));
        }
    }

    /** An application that goes on after it has answered. */
    @ParameterizedTest
    @MethodSource("servers")
    void anActEndsWhenTheApplicationIsQuiet(String url) throws Exception {
        Databases databases = Databases.besideSql(url, "", "", TABLES);
        try (StageServer server =
                StageServer.sideBySide(databases, place -> Jdbc.dataSource(place, "", ""), ServeSettings.usual())) {
            DocumentedClient client = new DocumentedClient(server);
            DataSource database = Jdbc.dataSource(client.post("/stages").text("/url"), "", "");
            client.post("/stages/1/act");
            CompletableFuture<Void> working = later(database, 6);
            Answer left = client.post("/stages/1/act/end", "{\"quietMillis\": 500}");
            working.join();
            assertEquals(6, left.body().get("changes").size(), left.body().toPrettyString());
            assertEquals("true", left.text("/quiet"));

            client.post("/stages/1/rewind");
            client.post("/stages/1/act");
            CompletableFuture<Void> busy = later(database, 20);
            Answer cut = client.post("/stages/1/act/end", "{\"quietMillis\": 500, \"atMostMillis\": 600}");
            assertEquals("false", cut.text("/quiet"), cut.body().toPrettyString());
            busy.join();
        }
        databases.drop();
    }

    private static CompletableFuture<Void> later(DataSource database, int rows) {
        return CompletableFuture.runAsync(() -> {
            for (int i = 1; i <= rows; i++) {
                try {
                    Thread.sleep(150);
                    execute(database, "INSERT INTO hut VALUES (" + i + ", 'Hut " + i + "', NULL)");
                } catch (InterruptedException | SQLException e) {
                    throw new IllegalStateException(e);
                }
            }
        });
    }
}
