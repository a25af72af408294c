package dev.zabbet.serve.internal;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.files.internal.JsonTree;
import dev.zabbet.serve.ServeSettings;
import java.io.IOException;
import java.io.InputStream;
import java.lang.System.Logger;
import java.lang.System.Logger.Level;
import java.nio.ByteBuffer;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.eclipse.jetty.http.HttpHeader;
import org.eclipse.jetty.io.Content;
import org.eclipse.jetty.server.Handler;
import org.eclipse.jetty.server.Request;
import org.eclipse.jetty.server.Response;
import org.eclipse.jetty.util.Callback;
import org.eclipse.jetty.util.Fields;
import org.jspecify.annotations.Nullable;

/** Finds the operation that a request asks for, and writes its answer, or the problem with it. */
public final class StageHandler extends Handler.Abstract {
    private static final Logger LOG = System.getLogger("dev.zabbet.serve");
    private static final String JSON = "application/json";
    private static final String YAML = "application/yaml";

    private final Gate gate;
    private final ServeSettings settings;
    private final List<Route> routes;

    /** What a request brings along: the number of the stage, the query, the body. */
    record Asked(String stage, Fields query, String body) {}

    /** What is answered: a status, and a tree to be written as JSON, or a text. */
    record Answer(int status, @Nullable Object tree, String mediaType) {
        static Answer of(Object tree) {
            return new Answer(200, tree, JSON);
        }
    }

    /** What an operation does. */
    interface Operation {
        Answer run(Asked asked) throws IOException;
    }

    /**
     * An operation's place.
     *
     * @param path its path; {@code *} stands for the number of a stage
     * @param takes the media types of the body; empty if it has none
     */
    record Route(String method, String path, List<String> takes, Operation operation) {
        /** Returns the number of the stage, empty where the path has none; null if it is another path. */
        @Nullable
        String match(String asked) {
            String[] own = path.split("/", -1);
            String[] parts = asked.split("/", -1);
            String stage = "";
            if (own.length != parts.length) {
                return null;
            }
            for (int i = 0; i < own.length; i++) {
                if (own[i].equals("*") && !parts[i].isEmpty()) {
                    stage = parts[i];
                } else if (!own[i].equals(parts[i])) {
                    return null;
                }
            }
            return stage;
        }
    }

    public StageHandler(Gate gate, ServedStages stages, ServeSettings settings) {
        this.gate = gate;
        this.settings = settings;
        StageOperations does = new StageOperations(stages);
        List<String> none = List.of();
        List<String> json = List.of(JSON);
        List<String> document = List.of(JSON, YAML);
        routes = List.of(
                new Route("GET", "/openapi.json", none, a -> new Answer(200, ServedDocument.json(), JSON)),
                new Route("GET", "/openapi.yaml", none, a -> new Answer(200, ServedDocument.yaml(), YAML)),
                new Route("GET", "/stages", none, does::list),
                new Route("POST", "/stages", json, does::open),
                new Route("GET", "/stages/*", none, does::state),
                new Route("PATCH", "/stages/*", json, does::set),
                new Route("DELETE", "/stages/*", none, does::close),
                new Route("POST", "/stages/*/load", document, does::load),
                new Route("POST", "/stages/*/add", json, does::add),
                new Route("GET", "/stages/*/rows", none, does::rows),
                new Route("POST", "/stages/*/clear", json, does::clear),
                new Route("POST", "/stages/*/points", json, does::mark),
                new Route("POST", "/stages/*/rewind", json, does::rewind),
                new Route("POST", "/stages/*/act", json, does::beginAct),
                new Route("POST", "/stages/*/act/end", json, does::endAct),
                new Route("GET", "/stages/*/footprint", none, does::footprint),
                new Route("POST", "/stages/*/expect", document, does::expect));
    }

    @Override
    public boolean handle(Request request, Response response, Callback callback) {
        try {
            gate.check(request);
            write(response, answer(request, response), callback);
        } catch (Problem e) {
            if (e.status() == 401) {
                response.getHeaders().put(HttpHeader.WWW_AUTHENTICATE, "Bearer");
            }
            ProblemHandler.write(response, e, callback);
        } catch (ZabbetException e) {
            ProblemHandler.write(
                    response, new Problem(422, "It cannot be done", String.valueOf(e.getMessage())), callback);
        } catch (IOException e) {
            callback.failed(e);
        } catch (RuntimeException e) {
            LOG.log(Level.ERROR, "A request failed that should not", e);
            ProblemHandler.write(
                    response,
                    new Problem(
                            500,
                            "Something went wrong that should not",
                            "Please report it, with what the server has printed: " + e),
                    callback);
        }
        return true;
    }

    private Answer answer(Request request, Response response) throws IOException {
        String path = request.getHttpURI().getPath();
        String method = request.getMethod();
        List<String> others = new ArrayList<>();
        for (Route route : routes) {
            String stage = route.match(path);
            if (stage != null && route.method().equals(method)) {
                return route.operation()
                        .run(new Asked(stage, Request.extractQueryParameters(request), body(request, route)));
            }
            if (stage != null) {
                others.add(route.method());
            }
        }
        if (others.isEmpty()) {
            throw new Problem(404, "No such path", "GET /openapi.json says which paths there are.");
        }
        response.getHeaders().put(HttpHeader.ALLOW, String.join(", ", others));
        throw new Problem(
                405,
                "Not by this method",
                "This path takes " + String.join(", ", others) + "; GET /openapi.json says what they do.");
    }

    private String body(Request request, Route route) throws IOException {
        if (request.getLength() > settings.mostBytes()) {
            throw tooLarge();
        }
        byte[] bytes;
        try (InputStream in = Content.Source.asInputStream(request)) {
            bytes = in.readNBytes(settings.mostBytes() + 1);
        }
        if (bytes.length > settings.mostBytes()) {
            throw tooLarge();
        }
        if (bytes.length > 0 && route.takes().isEmpty()) {
            throw RequestBody.wrong("A request by " + route.method() + " has no body here.");
        }
        String type = request.getHeaders().get(HttpHeader.CONTENT_TYPE);
        String plain = type == null ? "" : type.replaceFirst(";.*", "").strip().toLowerCase(Locale.ROOT);
        if (bytes.length > 0 && !route.takes().contains(plain)) {
            throw new Problem(
                    415,
                    "Another media type",
                    "The body's Content-Type has to be " + String.join(" or ", route.takes()) + ".");
        }
        try {
            return StandardCharsets.UTF_8
                    .newDecoder()
                    .decode(ByteBuffer.wrap(bytes))
                    .toString();
        } catch (CharacterCodingException e) {
            throw RequestBody.wrong("The body is not written in UTF-8.");
        }
    }

    private Problem tooLarge() {
        return new Problem(413, "The body is too large", "A body has at most " + settings.mostBytes() + " bytes here.");
    }

    private static void write(Response response, Answer answer, Callback callback) {
        response.setStatus(answer.status());
        response.getHeaders().put(HttpHeader.CACHE_CONTROL, "no-store");
        if (answer.tree() == null) {
            callback.succeeded();
            return;
        }
        response.getHeaders().put(HttpHeader.CONTENT_TYPE, answer.mediaType());
        String text = answer.tree() instanceof String whole ? whole : JsonTree.compact(answer.tree()) + "\n";
        Content.Sink.write(response, true, text, callback);
    }

    /** {@return the operations, as methods and paths} For the test that compares them with the document. */
    public List<Map.Entry<String, String>> operations() {
        return routes.stream()
                .map(route -> Map.entry(route.method(), route.path().replace("*", "{id}")))
                .toList();
    }
}
