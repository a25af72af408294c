package dev.zabbet.bench;

import java.io.ByteArrayInputStream;
import java.nio.charset.StandardCharsets;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.List;
import javax.sql.DataSource;
import org.postgresql.PGConnection;

/** Loads the same stays by hand: by prepared batches, and in the best way that each database has. */
final class PlainLoad {
    private static final String COLUMNS = Stays.COLUMNS;

    private PlainLoad() {}

    static void batches(DataSource database, Stays rows) throws SQLException {
        try (Connection connection = database.getConnection()) {
            connection.setAutoCommit(false);
            try (PreparedStatement statement =
                    connection.prepareStatement("INSERT INTO stay (" + COLUMNS + ") VALUES (?, ?, ?, ?, ?, ?, ?, ?)")) {
                for (int i = 0; i < rows.size(); i++) {
                    rows.bind(statement, 0, i);
                    statement.addBatch();
                    if (i % 1000 == 999) {
                        statement.executeBatch();
                    }
                }
                statement.executeBatch();
            }
            connection.commit();
        }
    }

    static void best(Target target, DataSource database, Stays rows) throws Exception {
        switch (target) {
            case H2 -> multiRow(database, rows);
            case SQLITE -> batches(database, rows);
            case POSTGRES -> copy(database, rows);
            case MARIADB -> loadData(database, rows);
        }
    }

    private static void multiRow(DataSource database, Stays rows) throws SQLException {
        int each = 1000;
        String one = "(?, ?, ?, ?, ?, ?, ?, ?)";
        String sql = "INSERT INTO stay (" + COLUMNS + ") VALUES "
                + String.join(", ", java.util.Collections.nCopies(each, one));
        try (Connection connection = database.getConnection()) {
            connection.setAutoCommit(false);
            try (PreparedStatement statement = connection.prepareStatement(sql)) {
                for (int from = 0; from < rows.size(); from += each) {
                    for (int i = 0; i < each; i++) {
                        rows.bind(statement, i * 8, from + i);
                    }
                    statement.executeUpdate();
                }
            }
            connection.commit();
        }
    }

    /** Drop the references, COPY, add them again: transactional, and the fastest way with references checked. */
    private static void copy(DataSource database, Stays rows) throws Exception {
        try (Connection connection = database.getConnection();
                Statement statement = connection.createStatement()) {
            connection.setAutoCommit(false);
            for (String name : List.of("stay_hut_id_fkey", "stay_hut_id_room_number_fkey")) {
                statement.execute("ALTER TABLE stay DROP CONSTRAINT " + name);
            }
            var copy =
                    connection.unwrap(PGConnection.class).getCopyAPI().copyIn("COPY stay (" + COLUMNS + ") FROM STDIN");
            StringBuilder text = new StringBuilder();
            for (int i = 0; i < rows.size(); i++) {
                rows.line(text, i);
                if (text.length() > 1 << 16 || i == rows.size() - 1) {
                    byte[] bytes = text.toString().getBytes(StandardCharsets.UTF_8);
                    copy.writeToCopy(bytes, 0, bytes.length);
                    text.setLength(0);
                }
            }
            copy.endCopy();
            statement.execute(
                    "ALTER TABLE stay ADD CONSTRAINT stay_hut_id_fkey FOREIGN KEY (hut_id) REFERENCES hut (id)");
            statement.execute("ALTER TABLE stay ADD CONSTRAINT stay_hut_id_room_number_fkey FOREIGN KEY (hut_id,"
                    + " room_number) REFERENCES room (hut_id, number)");
            connection.commit();
        }
    }

    /** LOAD DATA with references checked by the server. */
    private static void loadData(DataSource database, Stays rows) throws SQLException {
        StringBuilder text = new StringBuilder();
        for (int i = 0; i < rows.size(); i++) {
            rows.line(text, i);
        }
        try (Connection connection = database.getConnection();
                Statement statement = connection.createStatement()) {
            connection.setAutoCommit(false);
            statement
                    .unwrap(org.mariadb.jdbc.Statement.class)
                    .setLocalInfileInputStream(
                            new ByteArrayInputStream(text.toString().getBytes(StandardCharsets.UTF_8)));
            statement.execute("LOAD DATA LOCAL INFILE 'rows' INTO TABLE stay (" + COLUMNS + ")");
            connection.commit();
        }
    }
}
