package dev.zabbet.serve.internal.deliver;

import dev.zabbet.error.UnknownNameException;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.seed.Seed;
import io.swagger.v3.oas.models.OpenAPI;
import io.swagger.v3.oas.models.Operation;
import io.swagger.v3.oas.models.PathItem;
import io.swagger.v3.oas.models.media.Content;
import io.swagger.v3.oas.models.media.MediaType;
import io.swagger.v3.oas.models.media.Schema;
import io.swagger.v3.oas.models.parameters.Parameter;
import io.swagger.v3.oas.models.parameters.RequestBody;
import io.swagger.v3.oas.models.responses.ApiResponse;
import io.swagger.v3.oas.models.servers.Server;
import io.swagger.v3.parser.OpenAPIV3Parser;
import io.swagger.v3.parser.core.models.ParseOptions;
import io.swagger.v3.parser.core.models.SwaggerParseResult;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.net.http.HttpResponse.BodyHandlers;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** An application's OpenAPI document, as far as rows are created and deleted by it. */
final class ApiDocument {
    private static final Duration PATIENCE = Duration.ofSeconds(20);

    private final String name;
    private final OpenAPI document;
    private final List<ApiOperation> operations = new ArrayList<>();

    /** A field of a body: where it stands, its JSON type, and whether it has to be there. */
    record Field(List<String> path, String type, String format, boolean required) {
        String name() {
            return String.join("/", path);
        }
    }

    /** An operation of the document. */
    record ApiOperation(String method, String path, Operation operation, List<Parameter> parameters) {
        String name() {
            return operation.getOperationId() == null ? method + " " + path : operation.getOperationId();
        }

        List<String> pathParameters() {
            List<String> names = new ArrayList<>();
            for (String segment : path.split("/")) {
                if (segment.startsWith("{") && segment.endsWith("}")) {
                    names.add(segment.substring(1, segment.length() - 1));
                }
            }
            return names;
        }
    }

    private ApiDocument(String name, OpenAPI document) {
        this.name = name;
        this.document = document;
        if (document.getPaths() != null) {
            document.getPaths().forEach((path, item) -> item.readOperationsMap()
                    .forEach((method, operation) -> operations.add(
                            new ApiOperation(method.name(), path, operation, parameters(item, operation)))));
        }
    }

    static ApiDocument read(String where) {
        String text = where.matches("https?://.*") ? fetched(where) : Seed.text(where);
        ParseOptions options = new ParseOptions();
        options.setResolve(true);
        options.setSafelyResolveURL(true); // no document of another machine
        SwaggerParseResult parsed = new OpenAPIV3Parser()
                .readContents(text, List.of(), options, where.matches("https?://.*") ? null : where);
        if (parsed.getOpenAPI() == null || parsed.getOpenAPI().getPaths() == null) {
            String why = parsed.getMessages() == null ? "" : " " + String.join("; ", parsed.getMessages());
            throw new ZabbetException(where + " is no OpenAPI document of version 3 with paths." + why);
        }
        return new ApiDocument(where, parsed.getOpenAPI());
    }

    private static String fetched(String url) {
        try {
            HttpResponse<String> answer = HttpClient.newBuilder()
                    .connectTimeout(PATIENCE)
                    .build()
                    .send(
                            HttpRequest.newBuilder(URI.create(url))
                                    .timeout(PATIENCE)
                                    .build(),
                            BodyHandlers.ofString());
            if (answer.statusCode() != 200) {
                throw new ZabbetException(url + " cannot be had: the server answers " + answer.statusCode() + ".");
            }
            return answer.body();
        } catch (IOException | IllegalArgumentException e) {
            throw new ZabbetException(url + " cannot be had: " + e + ". Does the application run?", e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new ZabbetException(url + " was not waited for.", e);
        }
    }

    String name() {
        return name;
    }

    List<ApiOperation> operations() {
        return operations;
    }

    /** Returns where the document says that the application is; null if it says nothing that is whole. */
    @Nullable
    String server() {
        String url = written();
        if (!url.startsWith("/")) {
            return url.isEmpty() ? null : url;
        }
        return name.matches("https?://.*") ? URI.create(name).resolve(url).toString() : null;
    }

    /** Returns the path that comes before all paths of the document; empty if there is none. */
    String basePath() {
        String path = written().replaceFirst("https?://[^/]*", "").replaceFirst("/+$", "");
        return path.startsWith("/") ? path : "";
    }

    /** What the document says, if no variables are left in it: a URL, or a path that begins with a slash. */
    private String written() {
        return document.getServers() == null
                ? ""
                : document.getServers().stream()
                        .map(Server::getUrl)
                        .filter(url -> url != null && url.matches("(https?://[^{}]+|/[^{}]*)"))
                        .findFirst()
                        .orElse("");
    }

    /** Finds an operation by its operationId, or by method and path. */
    ApiOperation require(String where, String wanted) {
        Set<String> known = new LinkedHashSet<>();
        for (ApiOperation one : operations) {
            if (wanted.equals(one.operation().getOperationId())
                    || wanted.equalsIgnoreCase(one.method() + " " + one.path())) {
                return one;
            }
            known.add(one.name());
        }
        throw new ZabbetException(
                where + ": " + new UnknownNameException("operation of " + name, wanted, known).getMessage());
    }

    private List<Parameter> parameters(PathItem item, Operation operation) {
        List<Parameter> all = new ArrayList<>();
        if (item.getParameters() != null) {
            all.addAll(item.getParameters());
        }
        if (operation.getParameters() != null) {
            all.addAll(operation.getParameters());
        }
        return all.stream().map(this::resolved).toList();
    }

    private Parameter resolved(Parameter parameter) {
        String ref = parameter.get$ref();
        Parameter known = ref == null
                        || document.getComponents() == null
                        || document.getComponents().getParameters() == null
                ? null
                : document.getComponents().getParameters().get(last(ref));
        return known == null ? parameter : known;
    }

    private static String last(String ref) {
        return ref.substring(ref.lastIndexOf('/') + 1);
    }

    /** Returns the fields of an operation's body, those inside of objects too; empty if it has none. */
    List<Field> body(ApiOperation operation) {
        RequestBody body = operation.operation().getRequestBody();
        if (body != null && body.get$ref() != null && document.getComponents().getRequestBodies() != null) {
            body = document.getComponents().getRequestBodies().get(last(body.get$ref()));
        }
        List<Field> fields = new ArrayList<>();
        Schema<?> schema = body == null ? null : schema(body.getContent());
        if (schema != null) {
            collect(schema, List.of(), true, true, new HashSet<>(), fields);
        }
        return fields;
    }

    /** Returns the fields of what an operation answers when it is done. */
    List<Field> answer(ApiOperation operation) {
        List<Field> fields = new ArrayList<>();
        if (operation.operation().getResponses() == null) {
            return fields;
        }
        for (Map.Entry<String, ApiResponse> one :
                operation.operation().getResponses().entrySet()) {
            ApiResponse answer = one.getValue();
            if (answer.get$ref() != null && document.getComponents().getResponses() != null) {
                answer = document.getComponents().getResponses().get(last(answer.get$ref()));
            }
            Schema<?> schema = one.getKey().startsWith("2") && answer != null ? schema(answer.getContent()) : null;
            if (schema != null) {
                collect(schema, List.of(), true, false, new HashSet<>(), fields);
                break;
            }
        }
        return fields;
    }

    private static @Nullable Schema<?> schema(@Nullable Content content) {
        if (content == null) {
            return null;
        }
        for (Map.Entry<String, MediaType> one : content.entrySet()) {
            if (one.getKey().matches("(?i)application/(.*\\+)?json.*|\\*/\\*")) {
                return one.getValue().getSchema();
            }
        }
        return null;
    }

    private void collect(
            Schema<?> given, List<String> at, boolean required, boolean sent, Set<String> open, List<Field> fields) {
        Schema<?> schema = given;
        String ref = given.get$ref();
        if (ref != null) {
            if (!open.add(ref)
                    || document.getComponents() == null
                    || document.getComponents().getSchemas() == null) {
                return; // contains itself
            }
            Schema<?> known = document.getComponents().getSchemas().get(last(ref));
            if (known == null) {
                return;
            }
            schema = known;
        }
        Map<String, Schema<?>> properties = new LinkedHashMap<>();
        Set<String> needed = new HashSet<>();
        members(schema, properties, needed, new HashSet<>());
        if (properties.isEmpty()) {
            if (!at.isEmpty()) {
                fields.add(new Field(at, type(schema), schema.getFormat() == null ? "" : schema.getFormat(), required));
            }
        }
        properties.forEach((name, property) -> {
            if (!sent || !Boolean.TRUE.equals(property.getReadOnly())) {
                List<String> path = new ArrayList<>(at);
                path.add(name);
                collect(property, path, required && needed.contains(name), sent, new HashSet<>(open), fields);
            }
        });
    }

    /** Puts together what an object has by itself and by parts of which all hold. */
    private void members(Schema<?> schema, Map<String, Schema<?>> properties, Set<String> needed, Set<String> open) {
        if (schema.get$ref() != null) {
            Schema<?> known =
                    document.getComponents() == null || document.getComponents().getSchemas() == null
                            ? null
                            : document.getComponents().getSchemas().get(last(schema.get$ref()));
            if (known != null && open.add(schema.get$ref())) {
                members(known, properties, needed, open);
            }
            return;
        }
        if (schema.getProperties() != null) {
            schema.getProperties().forEach((name, property) -> properties.put(name, property));
        }
        if (schema.getRequired() != null) {
            needed.addAll(schema.getRequired());
        }
        if (schema.getAllOf() != null) {
            schema.getAllOf().forEach(part -> members(part, properties, needed, open));
        }
    }

    private static String type(Schema<?> schema) {
        if (schema.getType() != null) {
            return schema.getType();
        }
        Set<String> types = schema.getTypes() == null ? Set.of() : schema.getTypes();
        return types.stream().filter(one -> !one.equals("null")).findFirst().orElse("");
    }
}
