package dev.zabbet.examples.http;

import dev.zabbet.examples.http.HutsServer.Answer;
import dev.zabbet.examples.huts.Booking;
import dev.zabbet.examples.huts.Guest;
import dev.zabbet.examples.huts.JdbcGuestRepository;
import dev.zabbet.examples.huts.JdbcLedgerRepository;
import dev.zabbet.examples.huts.JdbcStayRepository;
import dev.zabbet.examples.huts.LedgerEntry;
import dev.zabbet.examples.huts.Stay;
import dev.zabbet.examples.huts.StayDesk;
import java.math.BigDecimal;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Clock;
import java.time.DateTimeException;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;

/** What can be asked of the huts over HTTP; names in JSON are not those of the columns. */
final class HutsApi {
    private static final BigDecimal PRICE_OF_A_NIGHT = new BigDecimal("48.00");
    private static final int SHORTEST_PASSWORD = 8;

    private final DataSource database;
    private final Clock clock;
    private final JdbcStayRepository stays;
    private final JdbcGuestRepository guests;
    private final JdbcLedgerRepository ledger;
    private final StayDesk desk;

    HutsApi(DataSource database, Clock clock) {
        this.database = database;
        this.clock = clock;
        this.stays = new JdbcStayRepository(database);
        this.guests = new JdbcGuestRepository(database);
        this.ledger = new JdbcLedgerRepository(database);
        this.desk = new StayDesk(stays, guests, ledger, clock);
    }

    Answer stays() {
        List<Map<String, Object>> all =
                stays.findAll().stream().map(HutsApi::shown).toList();
        return new Answer(200, Map.of("stays", all), null);
    }

    private static Map<String, Object> shown(Stay stay) {
        Map<String, Object> members = new LinkedHashMap<>();
        members.put("id", stay.id());
        members.put("hutId", stay.hutId());
        members.put("room", stay.roomNumber());
        members.put("arrives", stay.arrives().toString());
        members.put("nights", stay.nights());
        members.put("status", stay.status().name());
        members.put("price", stay.price().toPlainString());
        return members;
    }

    Answer addRegion(Map<String, Object> body) {
        String country = text(body, "country");
        if (!country.matches("[A-Z]{2}")) {
            throw new RefusedException(422, "country is a code of two capital letters; it was " + country);
        }
        return created(
                "/api/regions/",
                insert("INSERT INTO region (name, country) VALUES (?, ?)", text(body, "name"), country));
    }

    Answer addHut(Map<String, Object> body) {
        return created(
                "/api/huts/",
                insert(
                        "INSERT INTO hut (region_id, name, altitude_m, beds, opened_on) VALUES (?, ?, ?, ?, ?)",
                        number(body, "regionId"),
                        text(body, "name"),
                        (int) number(body, "altitude"),
                        (int) number(body, "beds"),
                        date(body, "openedOn")));
    }

    Answer addRoom(long hutId, Map<String, Object> body) {
        int number = (int) number(body, "number");
        insert("INSERT INTO room (hut_id, number, beds) VALUES (?, ?, ?)", hutId, number, (int) number(body, "beds"));
        return new Answer(201, Map.of("hutId", hutId, "number", number), "/api/huts/" + hutId + "/rooms/" + number);
    }

    Answer addGuest(Map<String, Object> body) {
        String password = text(body, "password");
        if (password.length() < SHORTEST_PASSWORD) {
            throw new RefusedException(422, "a password has at least " + SHORTEST_PASSWORD + " characters");
        }
        LocalDate born = body.get("born") == null ? null : date(body, "born");
        String hash = Integer.toHexString((text(body, "email") + password).hashCode()); // an example, no advice
        Guest guest = guests.save(new Guest(0, text(body, "fullName"), text(body, "email"), born, null, hash));
        return new Answer(201, Map.of("guest", Map.of("id", guest.id())), null);
    }

    Answer book(Map<String, Object> body) {
        int nights = (int) number(body, "nights");
        long guestId = number(body, "guestId");
        Stay stay = desk.book(new Booking(
                guestId,
                number(body, "hutId"),
                (int) number(body, "room"),
                date(body, "arrives"),
                nights,
                PRICE_OF_A_NIGHT.multiply(BigDecimal.valueOf(nights))));
        insert("INSERT INTO stay_guest (stay_id, guest_id) VALUES (?, ?)", stay.id(), guestId);
        return new Answer(201, shown(stay), "/api/stays/" + stay.id());
    }

    Answer confirm(long stayId) {
        desk.confirm(stayId);
        return new Answer(200, shown(stays.find(stayId).orElseThrow()), null);
    }

    Answer cancel(long stayId) {
        desk.cancel(stayId);
        return new Answer(200, shown(stays.find(stayId).orElseThrow()), null);
    }

    Answer enter(long stayId, Map<String, Object> body) {
        if (stays.find(stayId).isEmpty()) {
            throw new RefusedException(404, "there is no stay " + stayId);
        }
        LocalDateTime now = LocalDateTime.ofInstant(clock.instant(), ZoneOffset.UTC);
        LedgerEntry.Kind kind = LedgerEntry.Kind.valueOf(text(body, "kind"));
        UUID id = UUID.randomUUID();
        ledger.add(new LedgerEntry(id, stayId, new BigDecimal(text(body, "amount")), kind, now));
        return new Answer(201, Map.of("id", id.toString()), null);
    }

    Answer delete(String table, long id) {
        return gone(update("DELETE FROM " + table + " WHERE id = ?", id));
    }

    Answer deleteRoom(long hutId, long number) {
        return gone(update("DELETE FROM room WHERE hut_id = ? AND number = ?", hutId, number));
    }

    Answer deleteStay(long id) {
        update("DELETE FROM ledger_entry WHERE stay_id = ?", id);
        update("DELETE FROM stay_guest WHERE stay_id = ?", id);
        return gone(update("DELETE FROM stay WHERE id = ?", id));
    }

    private static Answer gone(int rows) {
        if (rows == 0) {
            throw new RefusedException(404, "there is no such row");
        }
        return new Answer(204, null, null);
    }

    private static Answer created(String path, long id) {
        return new Answer(201, Map.of("id", id), path + id);
    }

    private static String text(Map<String, Object> body, String name) {
        Object value = body.get(name);
        if (!(value instanceof String text) || text.isBlank()) {
            throw new RefusedException(422, name + " is missing");
        }
        return text;
    }

    private static long number(Map<String, Object> body, String name) {
        if (!(body.get(name) instanceof Number number)) {
            throw new RefusedException(422, name + " has to be a number");
        }
        return number.longValue();
    }

    private static LocalDate date(Map<String, Object> body, String name) {
        try {
            return LocalDate.parse(text(body, name));
        } catch (DateTimeException e) {
            throw new RefusedException(422, name + " has to be a date such as 2031-08-01");
        }
    }

    /** Stores a row and returns the number that the database gave it; 0 if it gives none. */
    private long insert(String sql, @Nullable Object... values) {
        try (Connection connection = database.getConnection();
                PreparedStatement statement = connection.prepareStatement(sql, Statement.RETURN_GENERATED_KEYS)) {
            bind(statement, values);
            statement.executeUpdate();
            try (ResultSet keys = statement.getGeneratedKeys()) {
                return keys.next() && keys.getObject(1) instanceof Long id ? id : 0;
            }
        } catch (SQLException e) {
            throw new IllegalStateException(e);
        }
    }

    private int update(String sql, @Nullable Object... values) {
        try (Connection connection = database.getConnection();
                PreparedStatement statement = connection.prepareStatement(sql)) {
            bind(statement, values);
            return statement.executeUpdate();
        } catch (SQLException e) {
            throw new IllegalStateException(e);
        }
    }

    private static void bind(PreparedStatement statement, @Nullable Object... values) throws SQLException {
        for (int i = 0; i < values.length; i++) {
            statement.setObject(i + 1, values[i]);
        }
    }
}
