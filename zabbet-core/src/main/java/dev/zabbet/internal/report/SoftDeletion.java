package dev.zabbet.internal.report;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import java.util.List;

/** Finds the column that says when a row was deleted. */
public final class SoftDeletion {

    private SoftDeletion() {}

    public static String column(Table table) {
        List<String> found = table.deletionColumns().stream().map(Column::name).toList();
        if (found.size() != 1) {
            throw new ZabbetException((found.isEmpty() ? "No column" : "More than one column") + " of " + table.name()
                    + " says when a row was deleted" + (found.isEmpty() ? "" : ": " + String.join(", ", found))
                    + ". Name it: softDeleted(key, column).");
        }
        return found.get(0);
    }
}
