package dev.zabbet.serve.internal.deliver;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.files.internal.JsonTree;
import dev.zabbet.files.internal.RowsAsJson;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.seed.SeedReceiver.Item;
import dev.zabbet.serve.internal.deliver.ApiClient.Request;
import dev.zabbet.serve.internal.deliver.ApiDocument.ApiOperation;
import dev.zabbet.serve.internal.deliver.ApiDocument.Field;
import dev.zabbet.serve.internal.deliver.MappedValue.Environment;
import dev.zabbet.serve.internal.deliver.MappedValue.Literal;
import dev.zabbet.serve.internal.deliver.MappedValue.OfColumn;
import dev.zabbet.type.Kind;
import io.swagger.v3.oas.models.parameters.Parameter;
import java.io.IOException;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import org.jspecify.annotations.Nullable;

/** Writes the request that an operation takes for a row. */
final class RequestWriter {
    private static final String STARS = "***";

    private final @Nullable String idempotencyKey;

    RequestWriter(@Nullable String idempotencyKey) {
        this.idempotencyKey = idempotencyKey;
    }

    /**
     * Writes a request.
     *
     * @param children rows that are delivered along with it
     * @param childValues their values
     */
    Request write(BoundOperation bound, Table table, Row values, List<Item> children, List<Row> childValues) {
        String path = bound.operation().path();
        for (Map.Entry<String, MappedValue> one : bound.path().entrySet()) {
            Object value = value(one.getValue(), table, values);
            if (value == null) {
                throw new ZabbetException(
                        "{" + one.getKey() + "} of " + path + " is null in " + table.name() + " " + values + ".");
            }
            path = path.replace("{" + one.getKey() + "}", ApiClient.encoded(String.valueOf(value)));
        }
        Map<String, String> headers = new LinkedHashMap<>();
        bound.headers().forEach((name, value) -> {
            Object sent = value(value, table, values);
            if (sent != null) {
                headers.put(name, String.valueOf(sent));
            }
        });
        if (bound.body().isEmpty()) {
            return new Request(bound.operation().method(), path, headers, null, null, idempotencyKey(bound));
        }
        Map<String, @Nullable Object> body = new LinkedHashMap<>();
        Map<String, @Nullable Object> shown = new LinkedHashMap<>();
        for (Map.Entry<Field, MappedValue> one : bound.body().entrySet()) {
            Field field = one.getKey();
            Object value = one.getValue() instanceof OfColumn column && column.table() != null
                    ? ofChildren(field, column, children, childValues)
                    : typed(field, value(one.getValue(), table, values));
            if (value == null && !field.required()) {
                continue;
            }
            boolean secret = one.getValue() instanceof Environment
                    || ApiClient.SECRET.matcher(field.name()).matches();
            put(body, field.path(), value);
            put(shown, field.path(), secret && value != null ? STARS : value);
        }
        return new Request(bound.operation().method(), path, headers, body, shown, idempotencyKey(bound));
    }

    /** Writes a request with values that are called as its fields and parameters are, but for capitals and separators. */
    static Request plain(ApiOperation operation, List<Field> fields, Map<String, @Nullable Object> values) {
        Map<String, @Nullable Object> named = new LinkedHashMap<>();
        values.forEach((name, value) -> named.put(BoundOperation.plain(name), value));
        String path = operation.path();
        for (String parameter : operation.pathParameters()) {
            Object value = named.get(BoundOperation.plain(parameter));
            if (value == null) {
                throw new ZabbetException(operation.name() + " needs {" + parameter
                        + "} in its path, and nothing is called so: " + String.join(", ", values.keySet()) + ".");
            }
            path = path.replace("{" + parameter + "}", ApiClient.encoded(String.valueOf(value)));
        }
        Map<String, @Nullable Object> body = new LinkedHashMap<>();
        Map<String, @Nullable Object> shown = new LinkedHashMap<>();
        for (Field field : fields) {
            Object value = typed(field, named.get(BoundOperation.plain(String.join("", field.path()))));
            if (value == null && field.required()) {
                throw new ZabbetException(operation.name() + " needs '" + field.name() + "', and nothing is called so: "
                        + String.join(", ", values.keySet()) + ".");
            }
            if (value != null) {
                put(body, field.path(), value);
                put(shown, field.path(), ApiClient.SECRET.matcher(field.name()).matches() ? STARS : value);
            }
        }
        boolean none = fields.isEmpty();
        return new Request(operation.method(), path, Map.of(), none ? null : body, none ? null : shown, null);
    }

    private @Nullable String idempotencyKey(BoundOperation bound) {
        return idempotencyKey != null
                ? idempotencyKey
                : bound.operation().parameters().stream()
                        .filter(parameter -> "header".equals(parameter.getIn()))
                        .map(Parameter::getName)
                        .filter(BoundOperation::isIdempotencyKey)
                        .findFirst()
                        .orElse(null);
    }

    @SuppressWarnings("unchecked")
    private static void put(Map<String, @Nullable Object> body, List<String> path, @Nullable Object value) {
        Map<String, @Nullable Object> at = body;
        for (String part : path.subList(0, path.size() - 1)) {
            at = (Map<String, @Nullable Object>)
                    Objects.requireNonNull(at.computeIfAbsent(part, name -> new LinkedHashMap<>()));
        }
        at.put(path.get(path.size() - 1), value);
    }

    private static @Nullable Object value(MappedValue value, Table table, Row values) {
        if (value instanceof Literal literal) {
            return literal.value();
        }
        if (value instanceof Environment environment) {
            return environment.value();
        }
        OfColumn column = (OfColumn) value;
        return plain(table.requireColumn(column.column()), values);
    }

    private static @Nullable Object plain(Column column, Row values) {
        Object value = values.has(column.name()) ? values.get(column.name()) : null;
        if (value != null && column.type().kind() == Kind.JSON) {
            try {
                return JsonTree.read(String.valueOf(value));
            } catch (IOException e) {
                return value;
            }
        }
        return value == null ? null : RowsAsJson.of(Row.row("it", value)).get("it");
    }

    /** The values of rows that come along: all of them where a list is taken, else of the only one. */
    private static @Nullable Object ofChildren(
            Field field, OfColumn column, List<Item> children, List<Row> childValues) {
        List<@Nullable Object> all = new ArrayList<>();
        for (int i = 0; i < children.size(); i++) {
            Table table = children.get(i).table();
            if (table.name().equalsIgnoreCase(column.table())) {
                all.add(plain(table.requireColumn(column.column()), childValues.get(i)));
            }
        }
        if (field.type().equals("array")) {
            return all;
        }
        if (all.size() > 1) {
            throw new ZabbetException("'" + field.name() + "' takes one row of " + column.table()
                    + ", and the seed has " + all.size() + " of them for it.");
        }
        return all.isEmpty() ? null : typed(field, all.get(0));
    }

    /** Texts that are numbers in JSON become numbers, and the other way round, as the document says. */
    private static @Nullable Object typed(Field field, @Nullable Object value) {
        if (value instanceof Number && field.type().equals("string")) {
            return value instanceof BigDecimal number ? number.toPlainString() : value.toString();
        }
        if (value instanceof String text
                && (field.type().equals("number") || field.type().equals("integer"))) {
            try {
                return new BigDecimal(text);
            } catch (NumberFormatException e) {
                return text;
            }
        }
        boolean withoutZone = value instanceof String text
                && field.format().equals("date-time")
                && text.matches("\\d{4}-\\d\\d-\\d\\dT\\d\\d:\\d\\d(:\\d\\d(\\.\\d+)?)?");
        return withoutZone ? value + "Z" : value;
    }
}
