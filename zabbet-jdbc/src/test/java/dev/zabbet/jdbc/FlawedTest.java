package dev.zabbet.jdbc;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.factory.Flawed;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import java.math.BigDecimal;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** Each flawed row is refused by the database, for its constraint; without the flaw it is stored. */
class FlawedTest {
    private static final String DDL = """
            CREATE TABLE hut (id ${id}, name VARCHAR(20) NOT NULL, CONSTRAINT hut_name UNIQUE (name));
            CREATE TABLE room (hut_id BIGINT NOT NULL, number INT NOT NULL, beds SMALLINT NOT NULL,
                CONSTRAINT room_beds CHECK (beds BETWEEN 1 AND 30), CONSTRAINT room_key PRIMARY KEY (hut_id, number),
                CONSTRAINT room_hut FOREIGN KEY (hut_id) REFERENCES hut (id));
            CREATE TABLE stay (id ${id}, hut_id BIGINT NOT NULL, code CHAR(4) NOT NULL, guest VARCHAR(30) NOT NULL,
                nights INT NOT NULL, arrives DATE NOT NULL, leaves DATE NOT NULL, price NUMERIC(6, 2),
                status VARCHAR(10) DEFAULT 'REQUESTED' NOT NULL,
                CONSTRAINT stay_nights CHECK (nights BETWEEN 1 AND 14), CONSTRAINT stay_dates CHECK (leaves > arrives),
                CONSTRAINT stay_status CHECK (status IN ('REQUESTED', 'CONFIRMED')),
                CONSTRAINT stay_guest CHECK (guest LIKE 'M% %'), CONSTRAINT stay_code UNIQUE (code, hut_id),
                CONSTRAINT stay_hut FOREIGN KEY (hut_id) REFERENCES hut (id));
            """;

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void eachIsRefusedForItsConstraintAlone(Engine engine) throws SQLException {
        try (Stage stage = Jdbc.stage(engine.fresh(DDL))) {
            Set<Flawed.Kind> kinds = EnumSet.noneOf(Flawed.Kind.class);
            List<String> told = new ArrayList<>();
            for (String table : List.of("hut", "room", "stay")) {
                for (Flawed flawed :
                        Factory.forTable(table).flawed(stage.schema()).toList()) {
                    kinds.add(flawed.kind());
                    told.add(flawed.toString());
                    Row row = stage.build(flawed);
                    SQLException refusal = assertThrows(
                            SQLException.class,
                            () -> insert(stage, flawed.table(), row, flawed.values()),
                            () -> flawed + ": " + row);
                    assertTrue(isFor(engine, flawed, refusal), () -> flawed + ": " + row + "\n" + refusal.getMessage());
                }
                Row valid = stage.build(Factory.forTable(table));
                insert(stage, table, valid, Row.of(Map.of())); // so that it is the flaw that was refused
            }
            Set<Flawed.Kind> expected = EnumSet.allOf(Flawed.Kind.class);
            if (engine == Engine.SQLITE) {
                expected.removeAll(EnumSet.of(Flawed.Kind.LENGTH, Flawed.Kind.RANGE, Flawed.Kind.TYPE));
            }
            assertEquals(expected, kinds, told::toString);
            for (String constraint : List.of("stay_dates", "stay_nights", "stay_status", "stay_guest", "stay_hut")) {
                boolean named = engine != Engine.SQLITE || !constraint.equals("stay_hut"); // SQLite names no references
                assertTrue(
                        !named || told.stream().anyMatch(t -> t.contains(constraint)), () -> constraint + " " + told);
            }
        }
    }

    record Stay(
            long id,
            long hutId,
            String code,
            String guest,
            int nights,
            LocalDate arrives,
            LocalDate leaves,
            @Nullable BigDecimal price,
            @Nullable String status,
            long version,
            @Nullable LocalDateTime bookedAt) {}

    /** A row that is fed in whole, defaults and all, breaks the one constraint; so does the object, and the payload says it. */
    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void columnsWithADefaultAreNoSecondFlaw(Engine engine) throws SQLException {
        String ddl = DDL.replace("status VARCHAR(10) DEFAULT 'REQUESTED' NOT NULL,", """
                status VARCHAR(10) DEFAULT 'REQUESTED' NOT NULL, version BIGINT DEFAULT 0 NOT NULL,
                booked_at TIMESTAMP DEFAULT CURRENT_TIMESTAMP NOT NULL,
                """);
        Factory<Stay> stays = Factory.forType(Stay.class).invent(Stay::price, values -> {
            return new BigDecimal(values.get(Stay::nights) * 10);
        });
        try (Stage stage = Jdbc.stage(engine.fresh(ddl))) {
            List<String> objects = new ArrayList<>();
            for (Flawed flawed : stays.flawed(stage.schema()).toList()) {
                Row row = stage.build(flawed);
                Row whole = Row.of(row.columns().stream()
                        .filter(c -> !c.equals("id") || row.get(c) != null)
                        .collect(LinkedHashMap::new, (map, c) -> map.put(c, row.get(c)), Map::putAll));
                SQLException refusal = assertThrows(
                        SQLException.class, () -> insert(stage, "stay", row, whole), () -> flawed + ": " + row);
                assertTrue(isFor(engine, flawed, refusal), () -> flawed + ": " + row + "\n" + refusal.getMessage());
                Map<String, @Nullable Object> payload = stage.payload(flawed);
                for (String column : flawed.values().columns()) {
                    String name;
                    if (column.equals("hut_id")) {
                        name = "hutId";
                    } else if (column.equals("booked_at")) {
                        name = "bookedAt";
                    } else {
                        name = column;
                    }
                    @Nullable Object flaw = flawed.values().get(column);
                    assertEquals(
                            flaw instanceof LocalDate || flaw instanceof LocalDateTime ? flaw.toString() : flaw,
                            payload.get(name),
                            flawed::toString);
                }
                if (flawed.kind() != Flawed.Kind.UNIQUE) {
                    assertTrue(!payload.containsKey("id"), payload::toString);
                }
                if (flawed.fits(Stay.class)) {
                    objects.add(flawed.kind() + " " + flawed.constraint());
                    Stay stay = stage.build(flawed, Stay.class);
                    Factory<Row> again = Factory.like("stay", Row.of(asRow(stay)));
                    assertThrows(ZabbetException.class, () -> stage.add(again), flawed::toString);
                } else {
                    assertTrue(assertThrows(ZabbetException.class, () -> stage.build(flawed, Stay.class))
                            .getMessage()
                            .startsWith("Stay cannot hold what is wrong with '" + flawed + "': "));
                }
            }
            assertTrue(objects.contains("CHECK stay_dates") && objects.contains("NULL guest"), objects::toString);
            assertTrue(!objects.contains("NULL nights"), objects::toString);
        }
    }

    private static Map<String, @Nullable Object> asRow(Stay stay) {
        Map<String, @Nullable Object> row = new LinkedHashMap<>();
        row.put("hut_id", stay.hutId());
        row.put("code", stay.code());
        row.put("guest", stay.guest());
        row.put("nights", stay.nights());
        row.put("arrives", stay.arrives());
        row.put("leaves", stay.leaves());
        row.put("price", stay.price());
        row.put("status", stay.status());
        row.put("version", stay.version());
        row.put("booked_at", stay.bookedAt());
        if (stay.id() != 0) {
            row.put("id", stay.id());
        }
        return row;
    }

    private static boolean isFor(Engine engine, Flawed flawed, SQLException refusal) {
        String state = String.valueOf(refusal.getSQLState());
        String message = String.valueOf(refusal.getMessage()).toLowerCase(java.util.Locale.ROOT);
        if (engine == Engine.SQLITE) {
            return switch (flawed.kind()) {
                case NULL -> message.contains("not null");
                case UNIQUE -> message.contains("unique") || message.contains("primary key");
                case REFERENCE -> message.contains("foreign key");
                default -> message.contains("check constraint failed: " + flawed.constraint());
            };
        }
        return switch (flawed.kind()) {
            case TYPE -> true; // each database has a class of its own for it
            case LENGTH, RANGE -> state.startsWith("22");
            case CHECK -> message.contains(flawed.constraint());
            case REFERENCE -> message.contains("foreign key") || state.equals("23506") || state.equals("23503");
            default -> state.startsWith("23") && (engine == Engine.MARIADB || state.equals(flawed.sqlState()));
        };
    }

    private static void insert(Stage stage, String name, Row row, Row flaw) throws SQLException {
        Table table = stage.schema().require(name);
        List<Column> columns = table.columns().stream()
                .filter(c -> row.get(c.name()) != null || flaw.columns().contains(c.name()))
                .toList();
        try (Connection connection = stage.dataSource().getConnection()) {
            if (connection.getMetaData().getDatabaseProductName().equals("SQLite")) {
                connection.createStatement().execute("PRAGMA foreign_keys = ON");
            }
            String sql = "INSERT INTO " + name + " ("
                    + columns.stream().map(Column::name).collect(Collectors.joining(", ")) + ") VALUES ("
                    + columns.stream().map(c -> "?").collect(Collectors.joining(", ")) + ")";
            try (PreparedStatement statement = connection.prepareStatement(sql)) {
                for (int i = 0; i < columns.size(); i++) {
                    @Nullable Object value = row.get(columns.get(i).name());

                    if (value instanceof LocalDate date) {
                        statement.setObject(i + 1, java.sql.Date.valueOf(date));
                    } else {
                        statement.setObject(
                                i + 1, value instanceof LocalDateTime time ? java.sql.Timestamp.valueOf(time) : value);
                    }
                }
                statement.executeUpdate();
            }
        }
    }
}
