package dev.zabbet.bench;

import java.sql.Connection;
import java.sql.DatabaseMetaData;
import java.sql.ResultSet;
import java.sql.SQLException;
import javax.sql.DataSource;

/** Reads tables the plain way: by DatabaseMetaData, table by table. */
final class PlainSchema {
    private PlainSchema() {}

    static void read(DataSource database) throws SQLException {
        try (Connection connection = database.getConnection()) {
            DatabaseMetaData data = connection.getMetaData();
            String catalog = connection.getCatalog();
            try (ResultSet tables = data.getTables(catalog, null, "%", new String[] {"TABLE", "BASE TABLE"})) {
                while (tables.next()) {
                    String schema = tables.getString("TABLE_SCHEM");
                    String name = tables.getString("TABLE_NAME");
                    drain(data.getColumns(catalog, schema, name, "%"));
                    drain(data.getPrimaryKeys(catalog, schema, name));
                    drain(data.getImportedKeys(catalog, schema, name));
                    drain(data.getIndexInfo(catalog, schema, name, true, true));
                }
            }
        }
    }

    private static void drain(ResultSet rows) throws SQLException {
        try (rows) {
            while (rows.next()) {
                rows.getString(1);
            }
        }
    }
}
