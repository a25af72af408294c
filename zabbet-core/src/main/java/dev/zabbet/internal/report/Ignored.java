package dev.zabbet.internal.report;

import dev.zabbet.error.UnknownNameException;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Change;
import java.util.HashSet;
import java.util.Optional;
import java.util.Set;

/** Tables and columns that a footprint's expectation ignores. */
public final class Ignored {
    private final Set<String> tables = new HashSet<>();
    private final Set<String> columns = new HashSet<>();

    public Ignored(Schema schema, String... names) {
        for (String name : names) {
            int dot = name.lastIndexOf('.');
            if (dot < 0 || schema.table(name).isPresent()) {
                tables.add(schema.require(name).name());
            } else if (name.startsWith("*.")) {
                everywhere(schema, name.substring(dot + 1));
            } else {
                Table table = schema.require(name.substring(0, dot));
                columns.add(table.name() + "."
                        + table.requireColumn(name.substring(dot + 1)).name());
            }
        }
    }

    private void everywhere(Schema schema, String column) {
        Set<String> known = new HashSet<>();
        boolean found = false;
        for (Table table : schema.tables()) {
            known.addAll(table.columnNames());
            Optional<Column> here = table.column(column);
            if (here.isPresent()) {
                found = true;
                columns.add(table.name() + "." + here.get().name());
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
                || changed.columns().stream().anyMatch(column -> !ignores(change.table(), column));
    }

    boolean ignores(Table table, String column) {
        return columns.contains(table.name() + "." + column);
    }
}
