package dev.zabbet.bench;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.factory.Factory;
import dev.zabbet.jdbc.Jdbc;
import dev.zabbet.schema.Schema;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.function.IntConsumer;

/** Fakes beside a map written by hand and beside an embedded database. */
final class Faking {
    private static final int ROUNDS = 7;

    private Faking() {}

    /** A guest. */
    public record Guest(long id, String name, String email, int visits) {}

    /** Guests, wherever they are kept. */
    public interface Guests {
        /** Stores a guest. */
        Guest save(Guest guest);

        /** Finds a guest. */
        Optional<Guest> findById(long id);

        /** Finds the guests of a name. */
        List<Guest> findByName(String name);
    }

    /** Guests in a map, as one would write it by hand. */
    private static final class ByHand implements Guests {
        private final Map<Long, Guest> guests = new HashMap<>();
        private long last;

        @Override
        public Guest save(Guest guest) {
            Guest saved = guest.id() == 0 ? new Guest(++last, guest.name(), guest.email(), guest.visits()) : guest;
            guests.put(saved.id(), saved);
            return saved;
        }

        @Override
        public Optional<Guest> findById(long id) {
            return Optional.ofNullable(guests.get(id));
        }

        @Override
        public List<Guest> findByName(String name) {
            List<Guest> found = new ArrayList<>();
            guests.values().forEach(guest -> {
                if (guest.name().equals(name)) {
                    found.add(guest);
                }
            });
            return found;
        }
    }

    /** Guests in an embedded database, over one connection with prepared statements. */
    private static final class Embedded implements Guests {
        private final PreparedStatement insert;
        private final PreparedStatement byId;
        private final PreparedStatement byName;

        Embedded(Connection connection) throws SQLException {
            insert = connection.prepareStatement("INSERT INTO guest (name, email, visits) VALUES (?, ?, ?)", 1);
            byId = connection.prepareStatement("SELECT id, name, email, visits FROM guest WHERE id = ?");
            byName = connection.prepareStatement("SELECT id, name, email, visits FROM guest WHERE name = ?");
        }

        @Override
        public Guest save(Guest guest) {
            try {
                insert.setString(1, guest.name());
                insert.setString(2, guest.email());
                insert.setInt(3, guest.visits());
                insert.executeUpdate();
                try (ResultSet keys = insert.getGeneratedKeys()) {
                    keys.next();
                    return new Guest(keys.getLong(1), guest.name(), guest.email(), guest.visits());
                }
            } catch (SQLException e) {
                throw new IllegalStateException(e);
            }
        }

        @Override
        public Optional<Guest> findById(long id) {
            try {
                byId.setLong(1, id);
                return read(byId).stream().findFirst();
            } catch (SQLException e) {
                throw new IllegalStateException(e);
            }
        }

        @Override
        public List<Guest> findByName(String name) {
            try {
                byName.setString(1, name);
                return read(byName);
            } catch (SQLException e) {
                throw new IllegalStateException(e);
            }
        }

        private static List<Guest> read(PreparedStatement statement) throws SQLException {
            try (ResultSet rows = statement.executeQuery()) {
                List<Guest> found = new ArrayList<>();
                while (rows.next()) {
                    found.add(new Guest(rows.getLong(1), rows.getString(2), rows.getString(3), rows.getInt(4)));
                }
                return found;
            }
        }
    }

    static List<String> measure() throws Exception {
        List<String> lines = new ArrayList<>();
        Schema schema = Schema.of(Guest.class);
        lines.add(making(schema));
        for (int size : new int[] {10, 1_000, 100_000}) {
            lines.add(calls(schema, size));
        }
        lines.add(tests(schema));
        return lines;
    }

    private static String making(Schema schema) throws Exception {
        Stage stage = Memory.stage(schema);
        double first = Bench.seconds(() -> stage.fake(Guests.class));
        double later = best(200, i -> stage.fake(Guests.class));
        return String.format(
                Locale.ROOT, "a fake is made in %.1f ms at first, then in %.3f ms", first * 1000, later * 1000);
    }

    private static String calls(Schema schema, int size) throws Exception {
        Stage stage = Memory.stage(schema);
        Guests fake = filled(stage.fake(Guests.class), size);
        Guests byHand = filled(new ByHand(), size);
        try (Stage h2 = Jdbc.embeddedSql(
                        "CREATE TABLE guest (id BIGINT GENERATED BY DEFAULT AS IDENTITY PRIMARY KEY,"
                                + " name VARCHAR(80), email VARCHAR(80), visits INT); CREATE INDEX guest_name ON guest (name)");
                Connection connection = h2.dataSource().getConnection()) {
            Guests embedded = filled(new Embedded(connection), size);
            List<Guests> all = List.of(fake, byHand, embedded);
            List<Double> byKey = each(all, 20_000, (guests, i) -> guests.findById(1 + i * 7919L % size));
            List<Double> query =
                    each(all, size > 10_000 ? 50 : 2_000, (guests, i) -> guests.findByName("Guest " + i % size));
            List<Double> save = each(
                    all, 2_000, (guests, i) -> guests.save(new Guest(0, "New " + i, "new" + i + "@example.org", i)));
            return String.format(
                    Locale.ROOT,
                    "%,d rows, microseconds for the fake, a map by hand, an embedded database: find by key %.3f, %.3f,"
                            + " %.2f (%.1f times the map); by a property %.2f, %.2f, %.2f; save %.2f, %.2f, %.2f",
                    size,
                    byKey.get(0),
                    byKey.get(1),
                    byKey.get(2),
                    byKey.get(0) / byKey.get(1),
                    query.get(0),
                    query.get(1),
                    query.get(2),
                    save.get(0),
                    save.get(1),
                    save.get(2));
        }
    }

    private static Guests filled(Guests guests, int size) {
        for (int i = 0; i < size; i++) {
            guests.save(new Guest(0, "Guest " + i, "guest" + i + "@example.org", i % 10));
        }
        return guests;
    }

    private static String tests(Schema schema) throws Exception {
        Factory<Guest> guests = Factory.forType(Guest.class);
        double seconds = Bench.seconds(() -> {
            for (int test = 0; test < 1000; test++) {
                Stage stage = Memory.stage(schema);
                Guests fake = stage.fake(Guests.class);
                Guest guest = stage.add(guests);
                stage.act(() -> {
                            fake.save(new Guest(guest.id(), "Renamed", guest.email(), 1));
                            fake.findById(guest.id());
                            fake.findByName("Renamed");
                            fake.save(new Guest(0, "New", "new@example.org", 0));
                            fake.findById(99);
                        })
                        .expect()
                        .changed("guest", guest.id(), dev.zabbet.expect.Expected.row("name", "Renamed"));
            }
        });
        return String.format(
                Locale.ROOT, "1,000 tests, each with a stage in memory, a fake and five calls: %.2f s", seconds);
    }

    /** A call of one of the repositories. */
    private interface CallOf {
        void of(Guests guests, int i);
    }

    /**
     * Returns the microseconds of one call of each: the medians of rounds that take turns, so that none is measured before
     * the compiler has seen them all.
     */
    private static List<Double> each(List<Guests> all, int times, CallOf call) throws Exception {
        List<List<Double>> rounds = new ArrayList<>();
        for (Guests guests : all) {
            rounds.add(new ArrayList<>());
            for (int i = 0; i < times * (times >= 20_000 ? 20 : 1); i++) {
                call.of(guests, i);
            }
        }
        for (int round = 0; round < ROUNDS; round++) {
            for (int g = 0; g < all.size(); g++) {
                Guests guests = all.get(g);
                double seconds = Bench.seconds(() -> {
                    for (int i = 0; i < times; i++) {
                        call.of(guests, i);
                    }
                });
                rounds.get(g).add(seconds / times * 1e6);
            }
        }
        return rounds.stream()
                .map(r -> r.stream().sorted().toList().get(ROUNDS / 2))
                .toList();
    }

    /** Returns the seconds of one call, the median of several rounds. */
    private static double best(int times, IntConsumer call) throws Exception {
        List<Double> rounds = new ArrayList<>();
        for (int i = 0; i < times; i++) {
            call.accept(i); // to warm up
        }
        for (int round = 0; round < ROUNDS; round++) {
            rounds.add(Bench.seconds(() -> {
                        for (int i = 0; i < times; i++) {
                            call.accept(i);
                        }
                    })
                    / times);
        }
        return rounds.stream().sorted().toList().get(ROUNDS / 2);
    }
}
