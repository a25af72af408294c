package dev.zabbet.examples.huts;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import javax.sql.DataSource;

/** What a hut has, kept as one document beside its row. */
public final class HutEquipment {
    private final DataSource dataSource;

    /** Equipment in this database. */
    public HutEquipment(DataSource dataSource) {
        this.dataSource = dataSource;
    }

    /**
     * Replaces the equipment of a hut.
     *
     * @param hutId the hut's key
     * @param document the equipment, as JSON
     * @throws IllegalStateException if there is no such hut, or the database refuses the document
     */
    public void replace(long hutId, String document) {
        try (Connection connection = dataSource.getConnection()) {
            String value =
                    switch (connection.getMetaData().getDatabaseProductName()) {
                        case "PostgreSQL" -> "?::json";
                        case "H2" -> "? FORMAT JSON";
                        default -> "?";
                    };
            try (PreparedStatement statement =
                    connection.prepareStatement("UPDATE hut SET amenities = " + value + " WHERE id = ?")) {
                statement.setString(1, document);
                statement.setLong(2, hutId);
                if (statement.executeUpdate() == 0) {
                    throw new IllegalStateException("There is no hut " + hutId + ".");
                }
            }
        } catch (SQLException e) {
            throw new IllegalStateException(e);
        }
    }
}
