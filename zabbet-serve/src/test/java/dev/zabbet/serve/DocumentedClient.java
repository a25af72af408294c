package dev.zabbet.serve;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertNotNull;
import static org.junit.jupiter.api.Assertions.assertTrue;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ObjectNode;
import com.networknt.schema.JsonSchemaFactory;
import com.networknt.schema.SpecVersion;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpRequest.BodyPublishers;
import java.net.http.HttpResponse;
import java.net.http.HttpResponse.BodyHandlers;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;

/** A client that knows nothing but the server's document, and holds each answer against it. */
final class DocumentedClient {
    private static final ObjectMapper JSON = new ObjectMapper();
    private static final JsonSchemaFactory SCHEMAS = JsonSchemaFactory.getInstance(SpecVersion.VersionFlag.V202012);

    private final HttpClient http = HttpClient.newHttpClient();
    private final StageServer server;
    private final JsonNode document;
    final Set<String> called = new TreeSet<>();

    /** What came back. */
    record Answer(int status, JsonNode body) {
        String text(String pointer) {
            return body.at(pointer).asText();
        }
    }

    DocumentedClient(StageServer server) throws IOException, InterruptedException {
        this.server = server;
        this.document = JSON.readTree(send("GET", "/openapi.json", "", "").body());
    }

    /** All operations that the document names, as method and path. */
    Set<String> operations() {
        Set<String> all = new TreeSet<>();
        for (Map.Entry<String, JsonNode> path : document.get("paths").properties()) {
            for (Map.Entry<String, JsonNode> one : path.getValue().properties()) {
                if (!one.getKey().equals("parameters")) {
                    all.add(one.getKey().toUpperCase(Locale.ROOT) + " " + path.getKey());
                }
            }
        }
        return all;
    }

    Answer get(String path) throws Exception {
        return call("GET", path, "", "");
    }

    Answer post(String path) throws Exception {
        return call("POST", path, "", "");
    }

    Answer post(String path, String json) throws Exception {
        return call("POST", path, "application/json", json);
    }

    Answer postYaml(String path, String yaml) throws Exception {
        return call("POST", path, "application/yaml", yaml);
    }

    Answer call(String method, String path, String type, String body) throws Exception {
        JsonNode operation = operation(method, path);
        if (type.equals("application/json")) {
            JsonNode request = resolved(operation.get("requestBody"));
            assertValid(request.at("/content/application~1json/schema"), body, "request of " + method + " " + path);
        }
        HttpResponse<String> response = send(method, path, type, body);
        JsonNode responses = operation.get("responses");
        boolean refused = !responses.has(String.valueOf(response.statusCode()));
        JsonNode expected = resolved(responses.get(refused ? "default" : String.valueOf(response.statusCode())));
        assertTrue(!refused || response.statusCode() >= 400, response.statusCode() + " is not documented: " + path);
        JsonNode content = expected.get("content");
        if (content == null) {
            assertEquals("", response.body());
            return new Answer(response.statusCode(), JSON.createObjectNode());
        }
        String media = content.fieldNames().next();
        assertEquals(media, response.headers().firstValue("Content-Type").orElse(""), path);
        if (!media.endsWith("json")) {
            return new Answer(response.statusCode(), JSON.getNodeFactory().textNode(response.body()));
        }
        assertValid(content.get(media).get("schema"), response.body(), method + " " + path);
        return new Answer(response.statusCode(), JSON.readTree(response.body()));
    }

    HttpResponse<String> send(String method, String path, String type, String body)
            throws IOException, InterruptedException {
        HttpRequest.Builder request = HttpRequest.newBuilder(URI.create(server.url() + path))
                .header("Authorization", "Bearer " + server.token())
                .method(method, body.isEmpty() ? BodyPublishers.noBody() : BodyPublishers.ofString(body));
        if (!type.isEmpty()) {
            request.header("Content-Type", type);
        }
        return http.send(request.build(), BodyHandlers.ofString());
    }

    private JsonNode operation(String method, String path) {
        String plain = path.replaceFirst("\\?.*", "");
        for (Map.Entry<String, JsonNode> one : document.get("paths").properties()) {
            if (plain.matches(one.getKey().replace("{id}", "[^/]+").replace(".", "\\."))) {
                JsonNode operation = one.getValue().get(method.toLowerCase(Locale.ROOT));
                assertNotNull(operation, method + " " + path + " is not documented");
                called.add(method + " " + one.getKey());
                return operation;
            }
        }
        throw new AssertionError(path + " is not documented");
    }

    private JsonNode resolved(JsonNode node) {
        return node.has("$ref") ? document.at(node.get("$ref").asText().substring(1)) : node;
    }

    private void assertValid(JsonNode schema, String json, String what) throws IOException {
        ObjectNode whole = JSON.createObjectNode();
        whole.putArray("allOf").add(schema);
        whole.set("components", document.get("components"));
        assertEquals(Set.of(), SCHEMAS.getSchema(whole).validate(JSON.readTree(json)), what + ": " + json);
    }
}
