package dev.zabbet.examples.huts;

import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.LocalDate;
import java.util.Optional;
import javax.sql.DataSource;

/** Guests in a database. */
public final class JdbcGuestRepository implements GuestRepository {
    private final Sql sql;

    /** A repository over this database. */
    public JdbcGuestRepository(DataSource dataSource) {
        this.sql = new Sql(dataSource);
    }

    @Override
    public Guest save(Guest guest) {
        if (guest.id() != 0) {
            sql.updateOne(
                    "UPDATE guest SET full_name = ?, email = ?, born = ?, emergency_contact_id = ?, password_hash = ?"
                            + " WHERE id = ?",
                    guest.fullName(),
                    guest.email(),
                    guest.born(),
                    guest.emergencyContactId(),
                    guest.passwordHash(),
                    guest.id());
            return guest;
        }
        long id = sql.insert(
                "INSERT INTO guest (full_name, email, born, emergency_contact_id, password_hash)"
                        + " VALUES (?, ?, ?, ?, ?)",
                guest.fullName(),
                guest.email(),
                guest.born(),
                guest.emergencyContactId(),
                guest.passwordHash());
        return find(id).orElseThrow();
    }

    @Override
    public Optional<Guest> find(long id) {
        return sql
                .query(
                        JdbcGuestRepository::read,
                        "SELECT id, full_name, email, born, emergency_contact_id, password_hash FROM guest"
                                + " WHERE id = ?",
                        id)
                .stream()
                .findFirst();
    }

    private static Guest read(ResultSet row) throws SQLException {
        return new Guest(
                row.getLong("id"),
                row.getString("full_name"),
                row.getString("email"),
                row.getObject("born", LocalDate.class),
                row.getObject("emergency_contact_id", Long.class),
                row.getString("password_hash"));
    }
}
