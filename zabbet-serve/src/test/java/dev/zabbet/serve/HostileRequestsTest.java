package dev.zabbet.serve;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import dev.zabbet.jdbc.Jdbc;
import java.io.IOException;
import java.net.Socket;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.function.Predicate;
import javax.sql.DataSource;
import org.junit.jupiter.api.Test;

/** Requests of somebody who was not meant, or means harm: each is refused with a problem document, and changes nothing. */
class HostileRequestsTest {
    private static final ObjectMapper JSON = new ObjectMapper();
    private static final int MOST_BYTES = 100_000;

    /** A request as bytes, and the status that it is refused with. */
    private record Hostile(String what, int status, String request) {}

    private final List<Hostile> all = new ArrayList<>();
    private String authority = "";
    private String token = "";

    private static String request(String line, List<String> headers, String body) {
        return line + " HTTP/1.1\r\n" + String.join("\r\n", headers) + "\r\nConnection: close\r\n"
                + (body.isEmpty() ? "" : "Content-Length: " + body.getBytes(StandardCharsets.UTF_8).length + "\r\n")
                + "\r\n"
                + body;
    }

    private void add(String what, int status, String line, List<String> headers, String body) {
        all.add(new Hostile(what, status, request(line, headers, body)));
    }

    private List<String> known(String... more) {
        List<String> headers = new ArrayList<>(List.of("Host: " + authority, "Authorization: Bearer " + token));
        headers.addAll(List.of(more));
        return headers;
    }

    private void body(String what, int status, String path, String type, String body) {
        add(what, status, "POST " + path, known("Content-Type: " + type), body);
    }

    private void collect() {
        String bearer = "Authorization: Bearer ";
        for (String wrong : List.of(
                "",
                "X: y",
                bearer,
                bearer + token.substring(1),
                bearer + token + "x",
                bearer + token.toUpperCase(java.util.Locale.ROOT) + "A",
                "Authorization: " + token,
                "Authorization: Basic " + token,
                "Authorization: bearer" + token,
                bearer + " " + token,
                bearer + token + "\r\n" + bearer + token,
                "Cookie: token=" + token,
                "X-Token: " + token,
                bearer + "null",
                bearer + "*")) {
            for (String line : List.of("GET /stages", "POST /stages/1/rewind")) {
                List<String> headers = new ArrayList<>(List.of("Host: " + authority));
                if (!wrong.isEmpty()) {
                    headers.add(wrong);
                }
                add("token: " + wrong, 401, line, headers, "");
            }
        }
        add("token in the query", 401, "GET /stages?token=" + token, List.of("Host: " + authority), "");
        String port = authority.substring(authority.indexOf(':') + 1);
        for (String host : List.of(
                "huts.example:" + port,
                "127.0.0.1",
                "127.0.0.1:1",
                "127.0.0.2:" + port,
                "localhost.example:" + port,
                "127.0.0.1.example:" + port,
                "0.0.0.0:" + port,
                "[::]:" + port,
                "example@127.0.0.1:" + port)) {
            add(
                    "host " + host,
                    host.contains("@") ? 400 : 421,
                    "POST /stages/1/rewind",
                    List.of("Host: " + host, bearer + token),
                    "");
        }
        add("no host", 400, "POST /stages/1/rewind", List.of(bearer + token), "");
        add("two hosts", 400, "POST /stages/1/rewind", known("Host: huts.example"), "");
        for (String page : List.of(
                "Origin: https://huts.example",
                "Origin: null",
                "Origin: http://" + authority,
                "Sec-Fetch-Site: cross-site",
                "Sec-Fetch-Site: same-site")) {
            add(page, 403, "POST /stages/1/rewind", known(page), "");
        }
        add(
                "preflight",
                403,
                "OPTIONS /stages",
                known("Origin: https://huts.example", "Access-Control-Request-Method: POST"),
                "");
        add("options", 405, "OPTIONS /stages", known(), "");
        add("trace", 405, "TRACE /stages", known(), "");
        add("other method", 405, "PUT /stages/1", known(), "");
        add("made-up method", 405, "FETCH /stages", known(), "");
        for (String path : List.of(
                "/",
                "/nothing",
                "/stages/",
                "/stages/1/",
                "/stages//1",
                "/stages/1/rows/..%2f..%2fetc",
                "/../etc/passwd",
                "/stages/../../etc/passwd",
                "/stages/%2e%2e/openapi.json",
                "/stages/1%00",
                "/stages/1;x=y",
                "/stages/1%2frows",
                "/stages/1/rows%00?table=hut",
                "/stages\\1",
                "/%c0%ae%c0%ae/",
                "/STAGES",
                "/stages/1/act/end/x",
                "//stages",
                "/stages/999",
                "/stages/-1",
                "/stages/1e0",
                "/stages/%3Cscript%3E")) {
            add("path " + path, -1, "GET " + path, known(), "");
        }
        for (String query : List.of(
                "",
                "table=",
                "table=zabbet.dedicated",
                "table=hut;DROP%20TABLE%20stay",
                "table=hut&where=1=1",
                "table=hut&first=0",
                "table=hut&first=99999999999999999999",
                "table=hut&order=id;x",
                "table=hut&count=yes",
                "table=hut&column=%27",
                "table=hut&where=id=1%20OR%201=1",
                "tabel=hut",
                "table=hut&table",
                "table=hut&where=")) {
            add("query " + query, -1, "GET /stages/1/rows?" + query, known(), "");
        }
        String json = "application/json";
        body("no JSON", 400, "/stages/1/add", json, "{\"rows\": {\"hut\": 1}");
        body("twice", 400, "/stages/1/add", json, "{\"rows\": {\"hut\": 1}, \"rows\": {\"hut\": 2}}");
        body("something behind", 400, "/stages/1/add", json, "{\"rows\": {\"hut\": 1}} {}");
        body("deep", 400, "/stages/1/add", json, "[".repeat(40_000));
        body("deep objects", 400, "/stages/1/points", json, "{\"name\":".repeat(5_000));
        body("a list", 400, "/stages/1/rewind", json, "[]");
        body("a huge number", 400, "/stages/1/add", json, "{\"rows\": {\"hut\": 1e999999999}}");
        body("a long number", 400, "/stages/1/add", json, "{\"rows\": {\"hut\": " + "9".repeat(5_000) + "}}");
        body("negative", 400, "/stages/1/add", json, "{\"rows\": {\"hut\": -1}}");
        body("half", 400, "/stages/1/add", json, "{\"rows\": {\"hut\": 0.5}}");
        body("unknown member", 400, "/stages/1/rewind", json, "{\"__proto__\": {}}");
        body("point of another type", 400, "/stages/1/rewind", json, "{\"to\": {\"x\": 1}}");
        body("empty name", 400, "/stages/1/points", json, "{\"name\": \"\"}");
        body("name with a path", 400, "/stages/1/points", json, "{\"name\": \"../x\"}");
        body("long name", 400, "/stages/1/points", json, "{\"name\": \"" + "x".repeat(61) + "\"}");
        body("body where none is taken", 400, "/stages/1/act", json, "{\"x\": 1}");
        body("too large", 413, "/stages/1/load", "application/yaml", "x".repeat(MOST_BYTES + 1));
        body("text", 415, "/stages/1/load", "text/plain", "tables: {hut: [{id: 1, name: x}]}");
        body("a form", 415, "/stages/1/add", "application/x-www-form-urlencoded", "rows=hut");
        body("multipart", 415, "/stages/1/load", "multipart/form-data; boundary=x", "--x--");
        body(
                "no UTF-8 is XML",
                415,
                "/stages/1/load",
                "application/xml",
                "<!DOCTYPE x [<!ENTITY y SYSTEM \"file:///etc/passwd\">]><x>&y;</x>");
        body("a YAML tag", 422, "/stages/1/load", "application/yaml", "tables: !!java.net.URL [\"http://127.0.0.1/\"]");
        body(
                "aliases",
                422,
                "/stages/1/load",
                "application/yaml",
                "a: &a [x,x,x,x]\nb: &b [*a,*a,*a,*a]\nc: &c [*b,*b,*b,*b]\ntables: *c");
        body(
                "a file of the server",
                422,
                "/stages/1/load",
                "application/yaml",
                "tables: {hut: [{id: 1, name: {file: /etc/passwd}}]}");
        body(
                "a file beside",
                400,
                "/stages/1/load",
                "application/yaml",
                "tables: {hut: [{id: 1, name: {file: pom.xml}}]}");
        body("deep YAML", 422, "/stages/1/load", "application/yaml", "[".repeat(30_000));
        body("no expectation", 400, "/stages/1/expect", "application/yaml", "tables: {}");
        body("an empty document", 400, "/stages/1/load", "application/yaml", " ");
        add("a length that is none", 400, "POST /stages/1/rewind", known("Content-Length: -1"), "");
        add("two lengths", 400, "POST /stages/1/rewind", known("Content-Length: 0", "Content-Length: 5"), "");
        add(
                "a length and chunks",
                400,
                "POST /stages/1/rewind",
                known("Content-Length: 5", "Transfer-Encoding: chunked"),
                "");
        add("other transfer", -1, "POST /stages/1/rewind", known("Transfer-Encoding: gzip"), "");
        add("a large head", 431, "GET /stages", known("X: " + "y".repeat(9_000)), "");
        add("a long line", -1, "GET /stages?" + "x".repeat(9_000), known(), "");
        add(
                "many heads",
                431,
                "GET /stages",
                known(String.join("\r\n", java.util.Collections.nCopies(900, "X: yyyyyyy"))),
                "");
        add("a body by GET", 400, "GET /stages", known("Content-Type: application/json"), "{}");
        all.add(new Hostile("no HTTP", 400, "hello\r\n\r\n"));
        all.add(new Hostile("HTTP/3", -1, "GET /stages HTTP/3.0\r\nHost: " + authority + "\r\n\r\n"));
        all.add(new Hostile(
                "control characters", 400, "GET /stages\u0001 HTTP/1.1\r\nHost: " + authority + "\r\n\r\n"));
    }

    @Test
    void eachIsRefusedAndChangesNothing() throws Exception {
        DataSource database = StageServerTest.prepared(StageServerTest.inMemory());
        ServeSettings usual = ServeSettings.usual();
        try (StageServer server = StageServer.inTurns(
                database,
                "jdbc:h2:mem:huts",
                new ServeSettings(0, usual.token(), 2, usual.idle(), usual.patience(), MOST_BYTES))) {
            DocumentedClient client = new DocumentedClient(server);
            client.post("/stages");
            client.postYaml("/stages/1/load", "tables:\n  hut: [{id: 1, name: Edelgrat}]\n");
            URI place = URI.create(server.url());
            authority = place.getAuthority();
            token = server.token();
            collect();
            assertTrue(all.size() >= 100, all.size() + " requests");
            List<String> wrong = new ArrayList<>();
            for (Hostile one : all) {
                String said = said(place.getPort(), one.request());
                String problem = problem(said, one.status());
                if (!problem.isEmpty()) {
                    wrong.add(one.what() + ": " + problem + "\n" + said);
                }
            }
            assertEquals(List.of(), wrong);
            assertEquals(
                    "[{\"id\":1,\"name\":\"Edelgrat\"}]",
                    client.get("/stages/1/rows?table=hut").body().get("rows").toString());
            assertEquals("0", client.get("/stages/1/rows?table=stay&count=true").text("/count"));
            assertEquals("[]", client.get("/stages/1").body().get("points").toString());
            assertEquals("false", client.get("/stages/1").text("/acting"));
            assertEquals(1, client.get("/stages").body().get("stages").size());
        }
        assertEquals(0, Jdbc.stage(database).rows("hut").size());
    }

    private static String said(int port, String request) throws IOException {
        try (Socket socket = new Socket("127.0.0.1", port)) {
            socket.setSoTimeout(20_000);
            try {
                socket.getOutputStream().write(request.getBytes(StandardCharsets.ISO_8859_1));
                socket.getOutputStream().flush();
                socket.shutdownOutput();
                return new String(socket.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
            } catch (java.net.SocketException e) {
                return "";
            }
        }
    }

    private static String problem(String said, int expected) throws IOException {
        int end = said.indexOf("\r\n\r\n");
        if (!said.startsWith("HTTP/1.1 ") || end < 0) {
            return "no answer";
        }
        int status = Integer.parseInt(said.substring(9, 12));
        if (expected > 0 ? status != expected : status < 400 || status > 499 && status != 501 && status != 505) {
            return "status " + status + " in the place of " + expected;
        }
        String head = said.substring(0, end).toLowerCase(java.util.Locale.ROOT);
        if (said.substring(end + 4).isBlank() && head.contains("\r\ncontent-length: 0")) {
            return "no document";
        }
        Predicate<String> has = header -> head.contains("\r\n" + header);
        if (!has.test("content-type: application/problem+json")
                || has.test("access-control-allow")
                || has.test("server:")) {
            return "other headers";
        }
        String body = said.substring(end + 4);
        JsonNode document = JSON.readTree(body.substring(body.indexOf('{'), body.lastIndexOf('}') + 1));
        boolean complete = document.get("status").asInt() == status
                && document.get("title").asText().length() > 2
                && document.get("detail").asText().length() > 10
                && !body.contains("\tat ")
                && !body.contains("Exception");
        return complete ? "" : "another document";
    }
}
