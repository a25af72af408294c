package dev.zabbet.expect;

import dev.zabbet.error.UnknownNameException;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Change;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Set;

/** Tables and columns that are left out of account. */
final class Ignored {
    private final Set<String> tables = new HashSet<>();
    private final Set<String> columns = new HashSet<>();

    Ignored(Schema schema, String... names) {
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
        boolean[] found = {false};
        for (Table table : schema.tables()) {
            known.addAll(table.columnNames());
            table.column(column).ifPresent(c -> {
                found[0] = true;
                columns.add(table.name() + "." + c.name());
            });
        }
        if (!found[0]) {
            throw new UnknownNameException(
                    "column of any table", column, known.stream().sorted().toList());
        }
    }

    List<Change> rest(List<Change> changes) {
        List<Change> rest = new ArrayList<>();
        for (Change change : changes) {
            boolean onlyIgnored = change instanceof Change.Changed changed
                    && changed.columns().stream()
                            .allMatch(column -> columns.contains(change.table().name() + "." + column));
            if (!tables.contains(change.table().name()) && !onlyIgnored) {
                rest.add(change);
            }
        }
        return rest;
    }
}
