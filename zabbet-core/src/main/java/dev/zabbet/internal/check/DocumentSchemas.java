package dev.zabbet.internal.check;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.jsonschema.JsonSchema;
import dev.zabbet.internal.jsonschema.SchemaEvaluation;
import dev.zabbet.internal.value.Json;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;

/**
 * JSON Schemas that stand in checks: {@code JSON_SCHEMA_VALID('{…}', amenities)}, as MariaDB has it from version 11.1 on (its manual,
 * "JSON_SCHEMA_VALID"). A format describes there, and does not restrict.
 */
public final class DocumentSchemas {
    static final String VALID = "json_schema_valid";
    private static final int MOST_KEPT = 500;
    private static final Map<String, JsonSchema> READ = new ConcurrentHashMap<>();

    private DocumentSchemas() {}

    private record Of(String column) {}

    private record Found(Optional<JsonSchema> schema) {}

    /** Returns the schema that the documents of a column have to keep, if a check says one that is understood. */
    public static Optional<JsonSchema> of(Table table, Column column) {
        return PerTable.of(table, new Of(column.name()), Found.class, () -> new Found(find(table, column)))
                .schema();
    }

    private static Optional<JsonSchema> find(Table table, Column column) {
        for (Check check : table.checks()) {
            Optional<JsonSchema> found =
                    CheckCondition.of(table, check).expr().flatMap(expr -> schema(table, column, expr));
            if (found.isPresent()) {
                return found;
            }
        }
        return Optional.empty();
    }

    /** Looks among what has to hold, and what may hold instead: null, for example. */
    private static Optional<JsonSchema> schema(Table table, Column column, Expr expr) {
        if (expr instanceof Expr.And || expr instanceof Expr.Or) {
            return expr.children().stream()
                    .flatMap(part -> schema(table, column, part).stream())
                    .findFirst();
        }
        if (!(expr instanceof Expr.Call call && call.function().equals(VALID))) {
            return Optional.empty();
        }
        List<Expr> arguments = call.arguments();
        boolean own = arguments.size() == 2
                && arguments.get(1) instanceof Expr.ColumnRef of
                && table.position(of.name()) == table.position(column.name());
        return own && arguments.get(0) instanceof Expr.Literal literal && literal.value() instanceof String text
                ? read(text)
                : Optional.empty();
    }

    private static Optional<JsonSchema> read(String text) {
        JsonSchema known = READ.get(text);
        if (known != null) {
            return Optional.of(known);
        }
        try {
            JsonSchema schema = JsonSchema.read(text, "of a check");
            if (READ.size() >= MOST_KEPT) {
                READ.clear();
            }
            READ.put(text, schema);
            return Optional.of(schema);
        } catch (ZabbetException e) {
            return Optional.empty();
        }
    }

    /**
     * Tells whether a document keeps a schema.
     *
     * @throws UnknownSyntaxException if the schema is not understood, or the document is none
     */
    static boolean isValid(String schema, String document) {
        JsonSchema read = read(schema).orElseThrow(() -> new UnknownSyntaxException("a JSON Schema"));
        Json.Document value = Json.read(document).orElseThrow(() -> new UnknownSyntaxException("what is no JSON"));
        return SchemaEvaluation.problems(read, value.value(), false).isEmpty();
    }
}
