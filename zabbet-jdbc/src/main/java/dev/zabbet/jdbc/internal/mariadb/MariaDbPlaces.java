package dev.zabbet.jdbc.internal.mariadb;

import dev.zabbet.jdbc.internal.connect.JdbcUrl;
import dev.zabbet.jdbc.internal.dialect.DatabaseIdentity;
import dev.zabbet.jdbc.internal.dialect.SchemaDraft;
import dev.zabbet.schema.Schema;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.regex.Pattern;

/** Which databases of a MariaDB server a schema is in, and what each is known by. */
final class MariaDbPlaces {
    private final MariaDbDialect dialect;

    MariaDbPlaces(MariaDbDialect dialect) {
        this.dialect = dialect;
    }

    DatabaseIdentity place(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement();
                ResultSet row = statement.executeQuery("SELECT DATABASE(), @@hostname, @@port")) {
            row.next();
            String database = String.valueOf(row.getString(1));
            return new DatabaseIdentity(
                    dialect.product(),
                    row.getString(2) + ":" + row.getString(3),
                    database,
                    birth(connection, database),
                    JdbcUrl.shown(connection.getMetaData().getURL()),
                    false);
        }
    }

    /** Places of other databases are those that tables are in to which a reference leads. */
    List<DatabaseIdentity> places(Connection connection, DatabaseIdentity home, Schema schema) throws SQLException {
        List<DatabaseIdentity> places = new ArrayList<>();
        MariaDbDatabases databases = MariaDbDatabases.of(connection, schema);
        for (String name : databases.names()) {
            places.add(places.isEmpty() ? home : beside(connection, home, name));
        }
        for (String name : writtenByTriggers(connection, databases)) {
            places.add(beside(connection, home, name));
        }
        return places;
    }

    private static DatabaseIdentity beside(Connection connection, DatabaseIdentity home, String name)
            throws SQLException {
        return home.beside(name, birth(connection, name));
    }

    /**
     * A dump that is restored makes its tables again, the one with the mark among them: what the mark is bound to is the moment
     * at which that was made, beside the server.
     */
    private static String birth(Connection connection, String database) throws SQLException {
        List<String> birth = SchemaDraft.texts(
                connection,
                MariaDbDatabases.in(
                        database,
                        "SELECT CONCAT(@@datadir, '@', COALESCE((SELECT VARIABLE_VALUE FROM"
                                + " information_schema.GLOBAL_VARIABLES WHERE VARIABLE_NAME = 'SERVER_UID'), ''), '@',"
                                + " COALESCE((SELECT UNIX_TIMESTAMP(CREATE_TIME) FROM information_schema.TABLES WHERE"
                                + " TABLE_SCHEMA = DATABASE() AND TABLE_NAME = 'zabbet_dedicated'), 0))"));
        return birth.get(0);
    }

    /** Returns other databases of the server that a trigger on one of the tables names, as far as the user may see triggers. */
    private static List<String> writtenByTriggers(Connection connection, MariaDbDatabases databases)
            throws SQLException {
        List<String> bodies = MariaDbCatalog.of(connection).triggers(connection, databases).stream()
                .filter(trigger -> !trigger.isOurs())
                .map(trigger -> trigger.body().toLowerCase(Locale.ROOT))
                .toList();
        if (bodies.isEmpty()) {
            return List.of();
        }
        List<String> others = SchemaDraft.texts(
                connection,
                "SELECT SCHEMA_NAME FROM information_schema.SCHEMATA WHERE SCHEMA_NAME NOT IN ('mysql', 'sys',"
                        + " 'information_schema', 'performance_schema')");
        others.removeAll(databases.names());
        return others.stream()
                .filter(name -> {
                    Pattern qualified = Pattern.compile(
                            "(?<![\\w`.$@])`?" + Pattern.quote(name.toLowerCase(Locale.ROOT)) + "`?\\s*\\.\\s*[\\w`]");
                    return bodies.stream()
                            .anyMatch(body -> qualified.matcher(body).find());
                })
                .toList();
    }
}
