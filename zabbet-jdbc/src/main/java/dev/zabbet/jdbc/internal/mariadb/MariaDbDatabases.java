package dev.zabbet.jdbc.internal.mariadb;

import dev.zabbet.jdbc.internal.dialect.Dialect;
import dev.zabbet.jdbc.internal.dialect.SchemaDraft;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;

/**
 * The databases of a MariaDB server that a schema's tables are in: the current one, and those that references lead to.
 * Catalog queries are made for one after the other, as the server looks into every table of every database otherwise.
 *
 * @param names their exact names; the current one is the first
 */
record MariaDbDatabases(List<String> names) {

    /** Returns the current database alone. */
    static MariaDbDatabases current(Connection connection) throws SQLException {
        return new MariaDbDatabases(SchemaDraft.texts(connection, "SELECT COALESCE(DATABASE(), '')"));
    }

    /** Returns the current database and those of other tables. */
    static MariaDbDatabases of(Connection connection, Schema schema) throws SQLException {
        Set<String> all = new LinkedHashSet<>(current(connection).names());
        schema.tables().stream().map(Table::sqlSchema).forEach(all::add);
        return new MariaDbDatabases(List.copyOf(all));
    }

    MariaDbDatabases and(String name) {
        List<String> more = new ArrayList<>(names);
        more.add(name);
        return new MariaDbDatabases(more);
    }

    /** Returns a name as it stands in SQL; only what is in another database has that before it. */
    String name(String database, String name, Dialect dialect) {
        return (database.equals(home()) ? "" : dialect.quote(database) + ".") + dialect.quote(name);
    }

    String home() {
        return names.get(0);
    }

    /** Makes a query for each; DATABASE() stands for its name in it. */
    void each(Connection connection, String sql, SchemaDraft.RowReader reader) throws SQLException {
        for (String name : names) {
            SchemaDraft.each(connection, in(name, sql), reader);
        }
    }

    static String in(String name, String sql) {
        return sql.replace("DATABASE()", "'" + name.replace("'", "''") + "'");
    }
}
