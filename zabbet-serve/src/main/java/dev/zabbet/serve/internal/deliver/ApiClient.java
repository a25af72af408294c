package dev.zabbet.serve.internal.deliver;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.files.internal.JsonTree;
import dev.zabbet.internal.text.Words;
import java.io.IOException;
import java.net.ConnectException;
import java.net.CookieManager;
import java.net.URI;
import java.net.URLEncoder;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpRequest.BodyPublishers;
import java.net.http.HttpResponse;
import java.net.http.HttpResponse.BodyHandlers;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/** Sends requests to the application, again where it says that it is busy. Thread-safe after it has logged in. */
final class ApiClient {
    static final Pattern SECRET =
            Pattern.compile("(?i).*(passw|pwd|secret|token|api_?key|credential|authorization|cookie).*");
    private static final int ATTEMPTS = 5;
    private static final Duration PATIENCE = Duration.ofSeconds(30);
    private static final long LONGEST_PAUSE_SECONDS = 20;
    private static final long FIRST_PAUSE_MILLIS = 200;
    private static final int SHOWN = 400;

    private final HttpClient http = HttpClient.newBuilder()
            .connectTimeout(PATIENCE)
            .cookieHandler(new CookieManager())
            .build();
    private final String server;
    private final Map<String, String> headers = new LinkedHashMap<>();

    /**
     * A request.
     *
     * @param body an object, to be written as JSON; null for none
     * @param shown the body as messages show it
     * @param idempotencyKey the header that carries a key by which the request is known when it comes again; null for none
     */
    record Request(
            String method,
            String path,
            Map<String, String> headers,
            @Nullable Object body,
            @Nullable Object shown,
            @Nullable String idempotencyKey) {}

    /** What the application answered. */
    record Answer(
            int status,
            String text,
            @Nullable String location,
            @Nullable String retryAfter) {
        boolean isDone() {
            return status >= 200 && status < 300;
        }

        /** The answer as JSON; null if it is none. */
        @Nullable
        Object tree() {
            try {
                return text.isBlank() ? null : JsonTree.read(text);
            } catch (IOException e) {
                return null;
            }
        }

        String shown() {
            return text.isBlank() ? "nothing" : Words.cut(text.strip().replaceAll("\\s+", " "), SHOWN);
        }
    }

    ApiClient(String server) {
        this.server = server.replaceFirst("/+$", "");
    }

    void sendAlways(String header, String value) {
        headers.put(header, value);
    }

    /** Returns the first line and the body of a request, with secrets starred. */
    List<String> shown(Request request) {
        String line = request.method() + " " + server + request.path();
        return request.shown() == null
                ? List.of(line)
                : List.of(line, Words.cut(JsonTree.compact(request.shown()), SHOWN));
    }

    static String encoded(String part) {
        return URLEncoder.encode(part, StandardCharsets.UTF_8).replace("+", "%20");
    }

    Answer send(Request request) {
        String key = UUID.randomUUID().toString();
        boolean repeatable =
                request.idempotencyKey() != null || request.method().equals("DELETE");
        for (int attempt = 1; ; attempt++) {
            try {
                Answer answer = once(request, key);
                boolean busy = answer.status() == 429 || answer.status() == 503;
                if (!busy || attempt == ATTEMPTS) {
                    return answer;
                }
                pause(answer, attempt);
            } catch (ConnectException e) {
                throw new ZabbetException(
                        "The application cannot be reached at " + server + ": " + e + ". Does it run?", e);
            } catch (IOException e) {
                if (!repeatable || attempt == ATTEMPTS) {
                    throw new ZabbetException(
                            "The application did not answer " + String.join(" ", shown(request)) + ": " + e
                                    + ". Whether it has created the row is not known.",
                            e);
                }
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
                throw new ZabbetException("The delivery was interrupted.", e);
            }
        }
    }

    private Answer once(Request request, String key) throws IOException, InterruptedException {
        HttpRequest.Builder builder = HttpRequest.newBuilder(URI.create(server + request.path()))
                .timeout(PATIENCE)
                .header("Accept", "application/json, */*;q=0.5")
                .method(
                        request.method(),
                        request.body() == null
                                ? BodyPublishers.noBody()
                                : BodyPublishers.ofString(JsonTree.compact(request.body())));
        if (request.body() != null) {
            builder.header("Content-Type", "application/json");
        }
        headers.forEach(builder::header);
        request.headers().forEach(builder::setHeader);
        if (request.idempotencyKey() != null) {
            builder.setHeader(request.idempotencyKey(), key);
        }
        HttpResponse<String> response = http.send(builder.build(), BodyHandlers.ofString());
        return new Answer(
                response.statusCode(),
                response.body(),
                response.headers().firstValue("Location").orElse(null),
                response.headers().firstValue("Retry-After").orElse(null));
    }

    /** Waits as long as the application asks for, or twice as long as the time before. */
    private static void pause(Answer answer, int attempt) throws InterruptedException {
        String after = answer.retryAfter();
        long millis = FIRST_PAUSE_MILLIS << (attempt - 1);
        if (after != null && after.matches("\\d{1,6}")) {
            millis = Math.min(Long.parseLong(after), LONGEST_PAUSE_SECONDS) * 1_000;
        }
        Thread.sleep(millis);
    }
}
