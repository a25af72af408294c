package dev.zabbet.serve.internal.deliver;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.seed.SeedReceiver.Item;
import dev.zabbet.serve.internal.deliver.ApiClient.Answer;
import dev.zabbet.serve.internal.deliver.ApiClient.Request;
import dev.zabbet.serve.internal.deliver.ApiDocument.ApiOperation;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.function.BiPredicate;
import org.jspecify.annotations.Nullable;

/** An application's API that seeds are delivered to: its document, and what a mapping file says beside it. */
public final class ApiDelivery {
    private final String file;
    private final ApiMapping mapping;
    private final @Nullable String server;
    private final List<String> leftOut = new ArrayList<>();

    private ApiDelivery(String file, ApiMapping mapping, @Nullable String server) {
        this.file = file;
        this.mapping = mapping;
        this.server = server;
    }

    public static ApiDelivery read(String file) {
        return new ApiDelivery(file, ApiMapping.read(file), null);
    }

    public ApiDelivery at(String url) {
        return new ApiDelivery(file, mapping, url);
    }

    public List<String> leftOut() {
        return List.copyOf(leftOut);
    }

    /**
     * Sends what an object holds to an operation, each value to the field or parameter that is called the same.
     *
     * @return what is answered, as JSON; an empty map for an answer that is none
     * @throws ZabbetException if the operation is not known, a required field has no value, or it is refused
     */
    public Object send(String name, Map<String, @Nullable Object> values) {
        ApiDocument document = ApiDocument.read(mapping.document());
        ApiOperation operation = document.require(file, name);
        ApiClient client = client(document);
        Request request = RequestWriter.plain(operation, document.body(operation), values);
        Answer answer = client.send(request);
        if (!answer.isDone()) {
            throw new ZabbetException("The application refused it: " + answer.status() + "\n  "
                    + String.join("\n  ", client.shown(request)) + "\nanswered\n  " + answer.shown());
        }
        Object tree = answer.tree();
        return tree == null ? Map.of() : tree;
    }

    private ApiClient client(ApiDocument document) {
        ApiClient client = new ApiClient(where(document));
        for (Map.Entry<String, MappedValue> one : mapping.headers().entrySet()) {
            client.sendAlways(one.getKey(), text(one.getValue(), one.getKey()));
        }
        logIn(client, document);
        return client;
    }

    public List<Row> receive(Schema schema, List<Item> rows, BiPredicate<Table, Row> isStored) {
        ApiDocument document = ApiDocument.read(mapping.document());
        Set<Table> tables = new LinkedHashSet<>();
        rows.forEach(row -> tables.add(row.table()));
        Map<String, TableCalls> calls = TableCalls.of(schema, tables, document, mapping);
        ApiClient client = client(document);
        List<Row> keys = new DeliveryRun(schema, rows, calls, client, mapping).run(isStored);
        tell(calls);
        return keys;
    }

    private String where(ApiDocument document) {
        String said = server == null ? mapping.server() : server;
        String where = said == null ? document.server() : said;
        if (where == null) {
            throw new ZabbetException("Where is the application? " + document.name() + " does not say it: write server:"
                    + " http://localhost:8080 into " + file + ".");
        }
        if (!where.matches("https?://\\S+")) {
            throw new ZabbetException(
                    "The application's server is a URL such as http://localhost:8080; it was '" + where + "'.");
        }
        boolean bare = said != null && where.replaceFirst("https?://[^/]*", "").matches("/*");
        return bare ? where.replaceFirst("/+$", "") + document.basePath() : where;
    }

    private static String text(MappedValue value, String where) {
        if (value instanceof MappedValue.Environment environment) {
            return environment.value();
        }
        if (value instanceof MappedValue.Literal literal) {
            return String.valueOf(literal.value());
        }
        throw new ZabbetException(
                where + " is sent with all requests, so that it cannot be a column: say {literal: value} or"
                        + " {env: NAME}.");
    }

    private void logIn(ApiClient client, ApiDocument document) {
        ApiMapping.LogIn logIn = mapping.logIn();
        if (logIn == null) {
            return;
        }
        ApiOperation operation = document.require(file + ", logIn", logIn.operation());
        Map<String, Object> body = new LinkedHashMap<>();
        Map<String, Object> shown = new LinkedHashMap<>();
        logIn.body().forEach((name, value) -> {
            body.put(name, text(value, name));
            shown.put(name, value instanceof MappedValue.Environment ? "***" : text(value, name));
        });
        Request request = new Request(operation.method(), operation.path(), Map.of(), body, shown, null);
        Answer answer = client.send(request);
        if (!answer.isDone()) {
            throw new ZabbetException("The application does not let in who delivers the seed; nothing was sent.\n  "
                    + String.join("\n  ", client.shown(request)) + "\nanswered " + answer.status() + "\n  "
                    + answer.shown());
        }
        if (logIn.token() != null) {
            Object at = answer.tree();
            for (String part : logIn.token().replaceFirst("^/", "").split("/")) {
                at = at instanceof Map<?, ?> map ? map.get(part) : null;
            }
            if (at == null) {
                throw new ZabbetException("There is no token at " + logIn.token()
                        + " of what the application answers to " + operation.name() + ".");
            }
            client.sendAlways(logIn.header(), logIn.prefix() + at);
        }
    }

    /** Columns that the API does not take are the application's own affair; whoever reads the seed should know. */
    private void tell(Map<String, TableCalls> calls) {
        leftOut.clear();
        calls.forEach((name, own) -> {
            Set<String> taken = own.create().columns();
            own.table().columns().stream()
                    .filter(column -> !column.isComputed()
                            && !taken.contains(column.name())
                            && !own.table().keyColumns().contains(column.name()))
                    .forEach(column -> leftOut.add(name + "." + column.name()));
        });
    }
}
