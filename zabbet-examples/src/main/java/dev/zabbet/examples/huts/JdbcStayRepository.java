package dev.zabbet.examples.huts;

import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.util.List;
import java.util.Optional;
import javax.sql.DataSource;

/** Stays in a database. */
public final class JdbcStayRepository implements StayRepository {
    private static final String SELECT =
            "SELECT id, hut_id, room_number, arrives, nights, status, price, booked_at," + " cancelled_at FROM stay";

    private final Sql sql;

    /** A repository over this database. */
    public JdbcStayRepository(DataSource dataSource) {
        this.sql = new Sql(dataSource);
    }

    @Override
    public Stay save(Stay stay) {
        if (stay.id() != 0) {
            sql.updateOne(
                    "UPDATE stay SET hut_id = ?, room_number = ?, arrives = ?, nights = ?, status = ?, price = ?,"
                            + " booked_at = ?, cancelled_at = ? WHERE id = ?",
                    stay.hutId(),
                    stay.roomNumber(),
                    stay.arrives(),
                    stay.nights(),
                    stay.status().name(),
                    stay.price(),
                    stay.bookedAt(),
                    stay.cancelledAt(),
                    stay.id());
            return stay;
        }
        long id = sql.insert(
                "INSERT INTO stay (hut_id, room_number, arrives, nights, status, price, booked_at, cancelled_at)"
                        + " VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
                stay.hutId(),
                stay.roomNumber(),
                stay.arrives(),
                stay.nights(),
                stay.status().name(),
                stay.price(),
                stay.bookedAt(),
                stay.cancelledAt());
        return find(id).orElseThrow();
    }

    @Override
    public Optional<Stay> find(long id) {
        return sql.query(JdbcStayRepository::read, SELECT + " WHERE id = ?", id).stream()
                .findFirst();
    }

    @Override
    public List<Stay> findAll() {
        return sql.query(JdbcStayRepository::read, SELECT + " ORDER BY id");
    }

    @Override
    public List<Stay> findByHutIdAndRoomNumber(long hutId, int roomNumber) {
        return sql.query(
                JdbcStayRepository::read,
                SELECT + " WHERE hut_id = ? AND room_number = ? ORDER BY id",
                hutId,
                roomNumber);
    }

    @Override
    public void delete(long id) {
        sql.update("DELETE FROM stay WHERE id = ?", id);
    }

    private static Stay read(ResultSet row) throws SQLException {
        return new Stay(
                row.getLong("id"),
                row.getLong("hut_id"),
                row.getInt("room_number"),
                row.getObject("arrives", LocalDate.class),
                row.getInt("nights"),
                Status.valueOf(row.getString("status")),
                row.getBigDecimal("price"),
                row.getObject("booked_at", LocalDateTime.class),
                row.getObject("cancelled_at", LocalDateTime.class));
    }
}
