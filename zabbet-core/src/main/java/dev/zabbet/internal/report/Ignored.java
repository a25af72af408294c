package dev.zabbet.internal.report;

import dev.zabbet.error.UnknownNameException;
import dev.zabbet.internal.document.RowPart;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Change;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;

/** Tables, columns and places in documents that a footprint's expectation ignores. */
public final class Ignored {
    private final Set<String> tables = new HashSet<>();
    private final Map<String, List<RowPart>> parts = new HashMap<>();

    public Ignored(Schema schema, String... names) {
        for (String name : names) {
            int dot = name.indexOf('.');
            if (dot < 0 || schema.table(name).isPresent()) {
                tables.add(schema.require(name).name());
            } else if (name.startsWith("*.")) {
                everywhere(schema, name.substring(2));
            } else {
                int end = end(schema, name);
                Table table = schema.require(name.substring(0, end));
                add(table, RowPart.of(table, name.substring(end + 1)));
            }
        }
    }

    /** A table's own name may have a dot before its schema, and a path has some: the longest name of a table counts. */
    private static int end(Schema schema, String name) {
        for (int dot = name.lastIndexOf('.'); dot > 0; dot = name.lastIndexOf('.', dot - 1)) {
            if (schema.table(name.substring(0, dot)).isPresent()) {
                return dot;
            }
        }
        return name.indexOf('.');
    }

    private void add(Table table, RowPart part) {
        parts.computeIfAbsent(table.name(), t -> new ArrayList<>()).add(part);
    }

    private void everywhere(Schema schema, String name) {
        Set<String> known = new HashSet<>();
        String column = name.split("[.\\[]", 2)[0];
        boolean found = false;
        for (Table table : schema.tables()) {
            known.addAll(table.columnNames());
            if (table.column(name).isPresent() || table.column(column).isPresent()) {
                found = true;
                add(table, RowPart.of(table, name));
            }
        }
        if (!found) {
            throw new UnknownNameException(
                    "column of any table", column, known.stream().sorted().toList());
        }
    }

    /** Tells whether a change is one besides what is ignored. */
    public boolean counts(Change change) {
        if (tables.contains(change.table().name())) {
            return false;
        }
        return !(change instanceof Change.Changed changed)
                || ChangedPart.of(changed).stream()
                        .flatMap(one -> one.leaves().stream())
                        .anyMatch(leaf -> !ignores(change.table(), leaf.part()));
    }

    boolean ignores(Table table, RowPart part) {
        return parts.getOrDefault(table.name(), List.of()).stream().anyMatch(ignored -> ignored.covers(part));
    }
}
