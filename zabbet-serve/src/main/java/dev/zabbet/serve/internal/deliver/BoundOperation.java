package dev.zabbet.serve.internal.deliver;

import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.serve.internal.deliver.ApiDocument.ApiOperation;
import dev.zabbet.serve.internal.deliver.ApiDocument.Field;
import dev.zabbet.serve.internal.deliver.ApiMapping.OfTable;
import dev.zabbet.serve.internal.deliver.MappedValue.OfColumn;
import io.swagger.v3.oas.models.parameters.Parameter;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * An operation, and what is sent in each place of it. A field or parameter belongs to the column that is called the same but for
 * capitals and separators; {@code hut} is {@code hut_id} too.
 */
record BoundOperation(
        ApiOperation operation,
        Map<String, MappedValue> path,
        Map<String, MappedValue> headers,
        Map<Field, MappedValue> body) {

    /**
     * Binds an operation.
     *
     * @param problems takes what is not known
     */
    static BoundOperation of(
            Table table,
            ApiOperation operation,
            List<Field> fields,
            OfTable said,
            boolean whole,
            List<String> problems) {
        Map<String, MappedValue> path = new LinkedHashMap<>();
        for (String parameter : operation.pathParameters()) {
            MappedValue value = said.path().get(parameter);
            if (value == null) {
                value = ofParameter(table, operation, parameter);
            }
            if (value == null) {
                problems.add(operation.name() + " needs {" + parameter + "} in its path, and no column of "
                        + table.name() + " is called so. Say which: tables: " + table.name() + ": path: {" + parameter
                        + ": column}.");
            } else {
                path.put(parameter, value);
            }
        }
        Map<Field, MappedValue> body = new LinkedHashMap<>();
        Set<String> unknown = new LinkedHashSet<>(said.fields().keySet());
        for (Field field : fields) {
            MappedValue value = said.fields().get(field.name());
            unknown.remove(field.name());
            if (value == null) {
                value = column(table, field.path())
                        .<MappedValue>map(c -> new OfColumn(null, c.name()))
                        .orElse(null);
            }
            if (value != null) {
                body.put(field, value);
            } else if (field.required() && whole) {
                problems.add(operation.name() + " needs '" + field.name() + "', and no column of " + table.name()
                        + " is called so. Say which: tables: " + table.name() + ": fields: {" + field.name()
                        + ": column}.");
            }
        }
        if (whole && !unknown.isEmpty() && !fields.isEmpty()) {
            problems.add(said.where() + ", fields: " + operation.name() + " takes no "
                    + String.join(" and no ", unknown) + ". It takes: "
                    + String.join(", ", fields.stream().map(Field::name).toList()) + ".");
        }
        if (fields.isEmpty() && whole) {
            said.fields().forEach((name, value) -> body.put(new Field(List.of(name.split("/")), "", "", true), value));
        }
        return new BoundOperation(operation, path, headers(table, operation, said, problems), body);
    }

    private static Map<String, MappedValue> headers(
            Table table, ApiOperation operation, OfTable said, List<String> problems) {
        Map<String, MappedValue> headers = new LinkedHashMap<>(said.headers());
        for (Parameter parameter : operation.parameters()) {
            boolean needed = Boolean.TRUE.equals(parameter.getRequired());
            if (needed && "header".equals(parameter.getIn()) && !headers.containsKey(parameter.getName())) {
                Optional<Column> column = column(table, List.of(parameter.getName()));
                if (column.isPresent()) {
                    headers.put(
                            parameter.getName(), new OfColumn(null, column.get().name()));
                } else if (!isIdempotencyKey(parameter.getName())) {
                    problems.add(operation.name() + " needs the header " + parameter.getName()
                            + ". Say what it holds: tables: " + table.name() + ": headers: {" + parameter.getName()
                            + ": column}.");
                }
            }
            if (needed && "query".equals(parameter.getIn())) {
                problems.add(operation.name() + " needs '" + parameter.getName()
                        + "' in its query, which is not supported.");
            }
        }
        return headers;
    }

    static boolean isIdempotencyKey(String header) {
        return plain(header).contains("idempotency");
    }

    /** Of {@code /huts/{id}/rooms}, id is the key of the table that the segment before it is called after. */
    private static @Nullable MappedValue ofParameter(Table table, ApiOperation operation, String parameter) {
        Optional<Column> same = column(table, List.of(parameter));
        String[] segments = operation.path().split("/");
        int at = List.of(segments).indexOf("{" + parameter + "}");
        String owner = at > 0 ? segments[at - 1] : "";
        if (!isCalled(table, owner)) {
            Optional<Column> parent = table.references().stream()
                    .filter(reference -> reference.columns().size() == 1)
                    .filter(reference -> isPlural(owner, reference.target()))
                    .findFirst()
                    .map(reference -> table.requireColumn(reference.columns().get(0)));
            if (parent.isPresent()) {
                return new OfColumn(null, parent.get().name());
            }
        } else if (same.isEmpty() && table.keyColumns().size() == 1) {
            return new OfColumn(null, table.keyColumns().get(0));
        }
        return same.map(column -> new OfColumn(null, column.name())).orElse(null);
    }

    /** Tells whether a segment of a path is called after a table: hut, huts, Hut, ledger-entries. */
    static boolean isCalled(Table table, String segment) {
        return isPlural(segment, table.name());
    }

    private static boolean isPlural(String segment, String table) {
        String one = plain(table.substring(table.lastIndexOf('.') + 1));
        String many = plain(segment);
        return many.equals(one)
                || many.equals(one + "s")
                || many.equals(one + "es")
                || (one.endsWith("y") && many.equals(one.substring(0, one.length() - 1) + "ies"));
    }

    /** Returns the column that a field is called after: by its own name, or, inside of an object, by both. */
    static Optional<Column> column(Table table, List<String> path) {
        List<String> names = new ArrayList<>(List.of(plain(String.join("", path))));
        if (path.size() > 1 && !path.get(path.size() - 1).equalsIgnoreCase("id")) {
            names.add(plain(path.get(path.size() - 1)));
        }
        for (String name : names) {
            Optional<Column> same = table.columns().stream()
                    .filter(column -> plain(column.name()).equals(name))
                    .findFirst();
            if (same.isPresent()) {
                return same;
            }
        }
        return table.columns().stream()
                .filter(column -> !table.referencesOf(column.name()).isEmpty()
                        && plain(column.name()).equals(names.get(0) + "id"))
                .findFirst();
    }

    static String plain(String name) {
        return name.replaceAll("[^\\p{L}\\p{N}]", "").toLowerCase(Locale.ROOT);
    }

    /** The tables whose rows are delivered along, by fields of this one. */
    Set<String> along() {
        Set<String> tables = new LinkedHashSet<>();
        body.values().forEach(value -> {
            if (value instanceof OfColumn column && column.table() != null) {
                tables.add(column.table());
            }
        });
        return tables;
    }

    /** The columns that are sent. */
    Set<String> columns() {
        Set<String> columns = new LinkedHashSet<>();
        List<MappedValue> all = new ArrayList<>(path.values());
        all.addAll(headers.values());
        all.addAll(body.values());
        for (MappedValue value : all) {
            if (value instanceof OfColumn column && column.table() == null) {
                columns.add(column.column());
            }
        }
        return columns;
    }
}
