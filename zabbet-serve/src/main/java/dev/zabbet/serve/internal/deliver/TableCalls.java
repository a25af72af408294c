package dev.zabbet.serve.internal.deliver;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.serve.internal.deliver.ApiDocument.ApiOperation;
import dev.zabbet.serve.internal.deliver.ApiDocument.Field;
import dev.zabbet.serve.internal.deliver.ApiMapping.OfTable;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** How rows of a table are created, completed and deleted, and where their keys are found. */
final class TableCalls {
    private final Table table;
    private final BoundOperation create;
    private final @Nullable BoundOperation later;
    private final @Nullable BoundOperation delete;
    private final Map<String, String> keyPointers;
    private final boolean inLocation;

    private TableCalls(
            Table table,
            BoundOperation create,
            @Nullable BoundOperation later,
            @Nullable BoundOperation delete,
            Map<String, String> keyPointers,
            boolean inLocation) {
        this.table = table;
        this.create = create;
        this.later = later;
        this.delete = delete;
        this.keyPointers = keyPointers;
        this.inLocation = inLocation;
    }

    /**
     * Finds the calls of all tables.
     *
     * @return them by table; a table whose rows are delivered along with those of another has none
     * @throws ZabbetException that tells all that is not known
     */
    static Map<String, TableCalls> of(Schema schema, Set<Table> tables, ApiDocument document, ApiMapping mapping) {
        Map<Table, OfTable> said = new LinkedHashMap<>();
        mapping.tables().forEach((name, part) -> said.put(schema.require(name), part));
        List<String> problems = new ArrayList<>();
        Map<String, TableCalls> calls = new LinkedHashMap<>();
        Set<String> along = new LinkedHashSet<>();
        List<Table> without = new ArrayList<>();
        for (Table table : tables) {
            OfTable own = said.getOrDefault(table, OfTable.nothing("tables, " + table.name()));
            ApiOperation create = own.create() == null
                    ? guessed(table, document, problems)
                    : document.require(own.where() + ", create", own.create());
            if (create == null) {
                without.add(table);
                continue;
            }
            TableCalls found = bound(table, create, own, document, problems);
            found.create.along().forEach(name -> along.add(schema.require(name).name()));
            calls.put(table.name(), found);
        }
        for (Table table : without) {
            if (!along.contains(table.name())) {
                problems.add("No operation of " + document.name() + " looks as if it created rows of " + table.name()
                        + ". Name it: tables: " + table.name()
                        + ": create: operationId; or, where they come with rows of another"
                        + " table, name a field of that: fields: {field: " + table.name() + ".column}.");
            }
        }
        if (!problems.isEmpty()) {
            throw new ZabbetException("The seed cannot be delivered, and nothing was sent:\n  "
                    + String.join("\n  ", new LinkedHashSet<>(problems)));
        }
        return calls;
    }

    /** Returns the one operation that adds to what is called after the table; null if there is none. */
    private static @Nullable ApiOperation guessed(Table table, ApiDocument document, List<String> problems) {
        List<ApiOperation> found = document.operations().stream()
                .filter(one -> one.method().equals("POST"))
                .filter(one -> BoundOperation.isCalled(
                        table, one.path().substring(one.path().lastIndexOf('/') + 1)))
                .toList();
        if (found.size() > 1) {
            problems.add("Several operations may create rows of " + table.name() + ": "
                    + String.join(", ", found.stream().map(ApiOperation::name).toList()) + ". Name one: tables: "
                    + table.name() + ": create: " + found.get(0).name() + ".");
        }
        return found.isEmpty() ? null : found.get(0);
    }

    private static TableCalls bound(
            Table table, ApiOperation create, OfTable own, ApiDocument document, List<String> problems) {
        BoundOperation creating = BoundOperation.of(table, create, document.body(create), own, true, problems);
        BoundOperation later = null;
        if (own.later() != null) {
            ApiOperation operation = document.require(own.where() + ", later", own.later());
            later = BoundOperation.of(table, operation, document.body(operation), own, false, problems);
        }
        ApiOperation deletes = own.delete() != null
                ? document.require(own.where() + ", delete", own.delete())
                : document.operations().stream()
                        .filter(one -> one.method().equals("DELETE"))
                        .filter(one ->
                                one.path().replaceFirst("/\\{[^/]+}$", "").equals(create.path()))
                        .findFirst()
                        .orElse(null);
        BoundOperation delete =
                deletes == null ? null : BoundOperation.of(table, deletes, List.of(), own, false, problems);
        boolean inLocation = "Location".equalsIgnoreCase(own.key());
        return new TableCalls(
                table, creating, later, delete, pointers(table, create, own, document, inLocation), inLocation);
    }

    /** Where the answer holds the columns of the key. */
    private static Map<String, String> pointers(
            Table table, ApiOperation create, OfTable own, ApiDocument document, boolean inLocation) {
        Map<String, String> pointers = new LinkedHashMap<>();
        List<String> key = table.keyColumns();
        if (own.key() != null && !inLocation) {
            if (!own.key().startsWith("/")) {
                throw new ZabbetException(
                        own.where() + ", key: a JSON pointer such as /id, or Location; it was '" + own.key() + "'.");
            }
            String column = key.stream()
                    .filter(name -> table.requireColumn(name).isNumbered())
                    .findFirst()
                    .orElse(key.isEmpty() ? "" : key.get(key.size() - 1));
            pointers.put(column, own.key());
            return pointers;
        }
        List<Field> answer = document.answer(create);
        for (String column : key) {
            for (int depth = 1; depth <= 2 && !pointers.containsKey(column); depth++) {
                for (Field field : answer) {
                    String last = field.path().get(field.path().size() - 1);
                    boolean inOwn = depth == 1
                            || BoundOperation.isCalled(table, field.path().get(0))
                            || isEnvelope(field);
                    if (field.path().size() == depth
                            && inOwn
                            && BoundOperation.plain(last).equals(BoundOperation.plain(column))) {
                        pointers.putIfAbsent(column, "/" + String.join("/", field.path()));
                    }
                }
            }
        }
        return pointers;
    }

    private static boolean isEnvelope(Field field) {
        return List.of("data", "result", "item", "content")
                .contains(BoundOperation.plain(field.path().get(0)));
    }

    Table table() {
        return table;
    }

    BoundOperation create() {
        return create;
    }

    @Nullable
    BoundOperation later() {
        return later;
    }

    @Nullable
    BoundOperation delete() {
        return delete;
    }

    /** Where the answer holds a column of the key; null if that is not known. */
    @Nullable
    String pointer(Column column) {
        return keyPointers.get(column.name());
    }

    boolean inLocation() {
        return inLocation;
    }
}
