package dev.zabbet.expect;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Kind;
import dev.zabbet.schema.Table;
import java.util.List;
import java.util.regex.Pattern;

/** Finds the column that says when a row was deleted. */
final class SoftDeletion {
    private static final Pattern NAME = Pattern.compile("(?i).*(delet|remov|cancel|archiv|discard).*");
    private static final List<Kind> TIMES = List.of(Kind.TIMESTAMP, Kind.INSTANT, Kind.DATE);

    private SoftDeletion() {}

    static String column(Table table) {
        List<String> found = table.columns().stream()
                .filter(c -> c.nullable()
                        && TIMES.contains(c.type().kind())
                        && NAME.matcher(c.name()).matches())
                .map(Column::name)
                .toList();
        if (found.size() != 1) {
            throw new ZabbetException((found.isEmpty() ? "No column" : "More than one column") + " of " + table.name()
                    + " says when a row was deleted" + (found.isEmpty() ? "" : ": " + String.join(", ", found))
                    + ". Name it: softDeleted(key, column).");
        }
        return found.get(0);
    }
}
