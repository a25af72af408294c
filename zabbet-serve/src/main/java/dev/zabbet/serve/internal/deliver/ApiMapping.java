package dev.zabbet.serve.internal.deliver;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.seed.Seed;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.snakeyaml.engine.v2.api.Load;
import org.snakeyaml.engine.v2.api.LoadSettings;
import org.snakeyaml.engine.v2.exceptions.YamlEngineException;

/**
 * What a mapping file says beside the application's document.
 *
 * @param document the OpenAPI document: a file or a URL
 * @param server where the application is; null if its document says it
 * @param headers what is sent with each request
 * @param logIn how to log in; null if that is not needed
 * @param atOnce how many requests are on their way at a time
 * @param idempotencyKey the header that repeated requests are known by; null if the document says it, or there is none
 */
record ApiMapping(
        String document,
        @Nullable String server,
        Map<String, MappedValue> headers,
        @Nullable LogIn logIn,
        int atOnce,
        @Nullable String idempotencyKey,
        Map<String, OfTable> tables) {
    private static final int MOST_AT_ONCE = 64;

    /**
     * A request that comes before all others.
     *
     * @param token where a token stands in its answer, as a JSON pointer; null if it is only a cookie
     * @param header the header that the token is sent in from then on
     * @param prefix what stands before the token
     */
    record LogIn(
            String operation,
            Map<String, MappedValue> body,
            @Nullable String token,
            String header,
            String prefix) {}

    /**
     * What is said of one table.
     *
     * @param create the operation that creates a row: its operationId, or method and path
     * @param later the operation that sets what refers to rows that are created after it
     * @param delete the operation that deletes a row
     * @param key where the new key stands in the answer: a JSON pointer, or Location
     */
    record OfTable(
            String where,
            @Nullable String create,
            @Nullable String later,
            @Nullable String delete,
            @Nullable String key,
            Map<String, MappedValue> fields,
            Map<String, MappedValue> path,
            Map<String, MappedValue> headers) {
        static OfTable nothing(String where) {
            return new OfTable(where, null, null, null, null, Map.of(), Map.of(), Map.of());
        }
    }

    static ApiMapping read(String file) {
        Object tree;
        try {
            tree = new Load(LoadSettings.builder().setLabel(file).build()).loadFromString(Seed.text(file));
        } catch (YamlEngineException e) {
            throw new ZabbetException(file + " cannot be read: " + e.getMessage(), e);
        }
        MappingPart whole = new MappingPart(file, tree)
                .knowing("document", "server", "headers", "logIn", "atOnce", "idempotencyKey", "tables");
        String document = whole.text("document");
        if (document == null) {
            throw new ZabbetException(
                    file + " has to name the application's OpenAPI document: document: openapi.yaml, or its" + " URL.");
        }
        Map<String, OfTable> tables = new LinkedHashMap<>();
        MappingPart all = whole.part("tables");
        for (String name : all.names()) {
            tables.put(name, table(all.part(name)));
        }
        return new ApiMapping(
                beside(file, document),
                whole.text("server"),
                values(whole.part("headers")),
                whole.value("logIn") == null ? null : logIn(whole.part("logIn")),
                atOnce(whole),
                whole.text("idempotencyKey"),
                tables);
    }

    /** A document that is named by a relative path stands beside the mapping. */
    private static String beside(String file, String document) {
        if (document.matches("https?://.*")) {
            return document;
        }
        Path beside = Path.of(file).resolveSibling(document);
        return Files.exists(beside) ? beside.toString() : document;
    }

    private static int atOnce(MappingPart whole) {
        String text = whole.text("atOnce");
        if (text == null) {
            return 1; // so that keys are given in the seed's order
        }
        if (!text.matches("[1-9]\\d?") || Integer.parseInt(text) > MOST_AT_ONCE) {
            throw new ZabbetException(
                    whole.where() + ": 'atOnce' is a number from 1 to " + MOST_AT_ONCE + "; it was " + text + ".");
        }
        return Integer.parseInt(text);
    }

    private static LogIn logIn(MappingPart part) {
        part.knowing("operation", "body", "token", "header", "prefix");
        String operation = part.text("operation");
        if (operation == null) {
            throw new ZabbetException(part.where() + ": name the operation, such as POST /login.");
        }
        String header = part.text("header");
        String prefix = part.text("prefix");
        String usual = header == null ? "Bearer " : "";
        return new LogIn(
                operation,
                values(part.part("body")),
                part.text("token"),
                header == null ? "Authorization" : header,
                prefix == null ? usual : prefix);
    }

    private static OfTable table(MappingPart part) {
        part.knowing("create", "later", "delete", "key", "fields", "path", "headers");
        return new OfTable(
                part.where(),
                part.text("create"),
                part.text("later"),
                part.text("delete"),
                part.text("key"),
                values(part.part("fields")),
                values(part.part("path")),
                values(part.part("headers")));
    }

    private static Map<String, MappedValue> values(MappingPart part) {
        Map<String, MappedValue> values = new LinkedHashMap<>();
        for (String name : part.names()) {
            values.put(name, MappedValue.of(part.where() + ", " + name, part.value(name)));
        }
        return values;
    }
}
