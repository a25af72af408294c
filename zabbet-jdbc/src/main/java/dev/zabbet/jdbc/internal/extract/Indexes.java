package dev.zabbet.jdbc.internal.extract;

import dev.zabbet.schema.Table;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.HashSet;
import java.util.Locale;
import java.util.Set;

/** The columns that indexes of a table begin with. */
final class Indexes {
    private final Set<String> first = new HashSet<>();

    Indexes(Connection connection, Table table) throws SQLException {
        table.keyColumns().stream().limit(1).forEach(this::add);
        String schema = table.sqlSchema().isEmpty() ? null : table.sqlSchema();
        boolean catalogs = connection.getMetaData().supportsCatalogsInTableDefinitions()
                && !connection.getMetaData().supportsSchemasInTableDefinitions();
        try (ResultSet found = connection
                .getMetaData()
                .getIndexInfo(
                        catalogs && schema != null ? schema : connection.getCatalog(),
                        catalogs ? null : schema,
                        table.sqlName(),
                        false,
                        true)) {
            while (found.next()) {
                String column = found.getString("COLUMN_NAME");
                if (found.getInt("ORDINAL_POSITION") == 1 && column != null) {
                    add(column);
                }
            }
        }
    }

    private void add(String column) {
        first.add(column.toLowerCase(Locale.ROOT));
    }

    boolean beginWith(String column) {
        return first.contains(column.toLowerCase(Locale.ROOT));
    }
}
