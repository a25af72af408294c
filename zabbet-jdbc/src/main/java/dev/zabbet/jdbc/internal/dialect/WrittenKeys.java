package dev.zabbet.jdbc.internal.dialect;

import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.type.Kind;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.List;
import java.util.Set;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** Statements that delete rows by keys written into them as text, which the server reads as the column's type. */
public final class WrittenKeys {
    private static final int AT_ONCE = 500;
    private static final Set<Kind> WRITTEN =
            EnumSet.of(Kind.INTEGER, Kind.UUID, Kind.TEXT, Kind.FIXED_TEXT, Kind.ENUM, Kind.DATE);

    private WrittenKeys() {}

    /** Returns what deletes the rows with these keys; nothing if a key cannot be written so. */
    public static List<String> delete(Dialect dialect, Table table, List<Row> keys) {
        List<Column> columns =
                table.keyColumns().stream().map(table::requireColumn).toList();
        List<String> statements = new ArrayList<>();
        for (int from = 0; from < keys.size(); from += AT_ONCE) {
            List<Row> some = keys.subList(from, Math.min(keys.size(), from + AT_ONCE));
            for (Row key : some) {
                if (columns.isEmpty() || !columns.stream().allMatch(c -> isWritten(c, key.get(c.name())))) {
                    return List.of();
                }
            }
            statements.add("DELETE FROM " + dialect.name(table) + " WHERE ("
                    + columns.stream().map(c -> dialect.quote(c.sqlName())).collect(Collectors.joining(", "))
                    + ") IN ("
                    + some.stream().map(key -> written(columns, key)).collect(Collectors.joining(", ")) + ")");
        }
        return statements;
    }

    /** Whether a backslash stands for itself depends on a setting. */
    private static boolean isWritten(Column column, @Nullable Object value) {
        return value != null
                && WRITTEN.contains(column.type().kind())
                && value.toString().indexOf('\\') < 0;
    }

    private static String written(List<Column> columns, Row key) {
        return columns.stream()
                .map(c -> "'" + String.valueOf(key.get(c.name())).replace("'", "''") + "'")
                .collect(Collectors.joining(", ", columns.size() == 1 ? "" : "(", columns.size() == 1 ? "" : ")"));
    }
}
