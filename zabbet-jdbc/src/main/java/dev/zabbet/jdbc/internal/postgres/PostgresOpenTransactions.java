package dev.zabbet.jdbc.internal.postgres;

import dev.zabbet.jdbc.internal.dialect.SchemaDraft;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;

/** Who has a transaction open on the tables, for messages. */
final class PostgresOpenTransactions {
    private PostgresOpenTransactions() {}

    /** Who has a transaction open that has used a table of the application's. */
    static List<String> users(Connection connection) throws SQLException {
        return SchemaDraft.texts(
                connection,
                "SELECT DISTINCT 'process ' || a.pid || ' of ' || a.usename || ', ' || a.state || ': ' || left(a.query, 200)"
                        + " FROM pg_locks l JOIN pg_stat_activity a USING (pid) JOIN pg_class c ON c.oid = l.relation"
                        + PostgresJournalSql.OF_THE_USER
                        + " AND l.database = (SELECT oid FROM pg_database WHERE datname = current_database())"
                        + " AND l.granted AND a.pid <> pg_backend_pid()");
    }

    static List<String> writers(Connection connection) throws SQLException {
        List<String> writers = new ArrayList<>();
        SchemaDraft.each(
                connection,
                "SELECT DISTINCT 'process ' || a.pid || ' of ' || a.usename || ', ' || a.state || ': ' || left(a.query, 200)"
                        + " FROM pg_locks l JOIN pg_stat_activity a USING (pid) WHERE l.relation = 'zabbet.journal'::regclass"
                        + " AND l.mode = 'RowExclusiveLock' AND a.pid <> pg_backend_pid()",
                rows -> writers.add(rows.getString(1)));
        return writers;
    }
}
