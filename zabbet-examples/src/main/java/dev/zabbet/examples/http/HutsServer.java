package dev.zabbet.examples.http;

import com.fasterxml.jackson.jr.ob.JSON;
import com.fasterxml.jackson.jr.ob.JSONObjectException;
import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import dev.zabbet.examples.huts.OverbookedException;
import dev.zabbet.jdbc.Jdbc;
import java.io.IOException;
import java.io.InputStream;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.time.Clock;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.NoSuchElementException;
import java.util.Objects;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;

/** The huts over HTTP: an API that {@code /openapi.yaml} describes, and a page that uses it. */
public final class HutsServer implements AutoCloseable {
    private static final String RESOURCES = "/dev/zabbet/examples/http/";

    static {
        // Java's server sends the head of an answer and its body apart; the second would wait for the first's receipt.
        System.setProperty("sun.net.httpserver.nodelay", "true");
    }

    private final HttpServer server;
    private final ExecutorService threads = Executors.newFixedThreadPool(8, work -> {
        Thread thread = new Thread(work, "huts");
        thread.setDaemon(true);
        return thread;
    });
    private final List<Route> routes;
    private final @Nullable String key;

    /** What is done at a path; the numbers in it come along. */
    private interface Work {
        Answer run(List<Long> numbers, Map<String, Object> body);
    }

    private record Route(String method, Pattern path, Work work) {}

    /** What is answered: a status, an object, and where a new one is found. */
    record Answer(
            int status, @Nullable Object body, @Nullable String location) {}

    private HutsServer(DataSource database, Clock clock, @Nullable String key) throws IOException {
        this.key = key;
        HutsApi api = new HutsApi(database, clock);
        routes = List.of(
                route("GET", "/api/stays", (n, body) -> api.stays()),
                route("POST", "/api/regions", (n, body) -> api.addRegion(body)),
                route("POST", "/api/huts", (n, body) -> api.addHut(body)),
                route("POST", "/api/huts/#/rooms", (n, body) -> api.addRoom(n.get(0), body)),
                route("POST", "/api/guests", (n, body) -> api.addGuest(body)),
                route("POST", "/api/stays", (n, body) -> api.book(body)),
                route("POST", "/api/stays/#/confirm", (n, body) -> api.confirm(n.get(0))),
                route("POST", "/api/stays/#/cancel", (n, body) -> api.cancel(n.get(0))),
                route("POST", "/api/stays/#/ledger", (n, body) -> api.enter(n.get(0), body)),
                route("DELETE", "/api/regions/#", (n, body) -> api.delete("region", n.get(0))),
                route("DELETE", "/api/huts/#", (n, body) -> api.delete("hut", n.get(0))),
                route("DELETE", "/api/huts/#/rooms/#", (n, body) -> api.deleteRoom(n.get(0), n.get(1))),
                route("DELETE", "/api/guests/#", (n, body) -> api.delete("guest", n.get(0))),
                route("DELETE", "/api/stays/#", (n, body) -> api.deleteStay(n.get(0))));
        server = HttpServer.create(new InetSocketAddress(InetAddress.getLoopbackAddress(), 0), 0);
        server.setExecutor(threads);
        server.createContext("/", this::handle);
        server.start();
    }

    private static Route route(String method, String path, Work work) {
        return new Route(method, Pattern.compile(path.replace("#", "(\\d{1,18})")), work);
    }

    /**
     * Starts the application on a free port of this machine.
     *
     * @param database its database, which has the tables
     * @param clock what it takes for the present time
     * @param key what requests to the API carry as {@code X-Desk-Key}; null if none is asked for
     */
    public static HutsServer start(DataSource database, Clock clock, @Nullable String key) throws IOException {
        return new HutsServer(database, clock, key);
    }

    /**
     * Starts the application as a process, and prints its URL.
     *
     * @param arguments the JDBC URL of its database, and an instant that it takes for the present time
     */
    public static void main(String[] arguments) throws IOException {
        DataSource database = Jdbc.dataSource(arguments[0], "", ""); // any would do
        Clock clock =
                arguments.length > 1 ? Clock.fixed(Instant.parse(arguments[1]), ZoneOffset.UTC) : Clock.systemUTC();
        HutsServer server = start(database, clock, System.getenv("HUTS_KEY"));
        System.out.println(server.url());
    }

    /** Returns where it is: {@code http://127.0.0.1:PORT}. */
    public String url() {
        return "http://127.0.0.1:" + server.getAddress().getPort();
    }

    @Override
    public void close() {
        server.stop(0);
        threads.shutdownNow();
    }

    private void handle(HttpExchange exchange) throws IOException {
        try (exchange) {
            try {
                String path = exchange.getRequestURI().getPath();
                switch (path) {
                    case "/" -> file(exchange, "page.html", "text/html; charset=utf-8");
                    case "/openapi.yaml" -> file(exchange, "openapi.yaml", "application/yaml");
                    default -> answer(exchange, done(exchange, path));
                }
            } catch (RefusedException e) {
                answer(exchange, new Answer(e.status(), Map.of("problem", String.valueOf(e.getMessage())), null));
            } catch (OverbookedException e) {
                answer(exchange, new Answer(409, Map.of("problem", String.valueOf(e.getMessage())), null));
            } catch (NoSuchElementException e) {
                answer(exchange, new Answer(404, Map.of("problem", "there is no such row: " + e.getMessage()), null));
            } catch (RuntimeException e) {
                answer(exchange, new Answer(422, Map.of("problem", reason(e)), null));
            }
        }
    }

    private static String reason(Throwable e) {
        return e.getCause() == null ? String.valueOf(e.getMessage()) : reason(e.getCause());
    }

    private Answer done(HttpExchange exchange, String path) throws IOException {
        String given = exchange.getRequestHeaders().getFirst("X-Desk-Key");
        if (key != null && !key.equals(given)) {
            throw new RefusedException(401, "the desk's key is missing or wrong");
        }
        for (Route route : routes) {
            Matcher matcher = route.path().matcher(path);
            if (matcher.matches() && route.method().equals(exchange.getRequestMethod())) {
                List<Long> numbers = new ArrayList<>();
                for (int i = 1; i <= matcher.groupCount(); i++) {
                    numbers.add(Long.valueOf(matcher.group(i)));
                }
                return route.work().run(numbers, body(exchange));
            }
        }
        throw new RefusedException(404, "there is nothing at " + exchange.getRequestMethod() + " " + path);
    }

    private static Map<String, Object> body(HttpExchange exchange) throws IOException {
        String text = new String(exchange.getRequestBody().readAllBytes(), StandardCharsets.UTF_8);
        try {
            return text.isBlank() ? Map.of() : JSON.std.mapFrom(text);
        } catch (JSONObjectException e) {
            throw new RefusedException(400, "the body is no JSON object");
        }
    }

    private static void answer(HttpExchange exchange, Answer answer) throws IOException {
        byte[] body = answer.body() == null ? new byte[0] : JSON.std.asBytes(answer.body());
        if (answer.location() != null) {
            exchange.getResponseHeaders().set("Location", answer.location());
        }
        exchange.getResponseHeaders().set("Content-Type", "application/json");
        exchange.sendResponseHeaders(answer.status(), body.length == 0 ? -1 : body.length);
        exchange.getResponseBody().write(body);
    }

    private static void file(HttpExchange exchange, String name, String type) throws IOException {
        try (InputStream in = Objects.requireNonNull(HutsServer.class.getResourceAsStream(RESOURCES + name), name)) {
            byte[] bytes = in.readAllBytes();
            exchange.getResponseHeaders().set("Content-Type", type);
            exchange.sendResponseHeaders(200, bytes.length);
            exchange.getResponseBody().write(bytes);
        }
    }
}
