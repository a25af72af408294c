package dev.zabbet.jdbc;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.sql.Date;
import java.sql.Time;
import java.sql.Timestamp;
import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.OffsetDateTime;
import java.time.ZonedDateTime;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TimeZone;
import java.util.UUID;
import javax.sql.DataSource;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** What is given as this or that type of Java is stored, and found again by an expectation and by a condition. */
class JavaValuesTest {
    private static final UUID ID = UUID.fromString("00000000-0000-4000-8000-000000000001");
    private static final Instant INSTANT = Instant.parse("2031-07-01T08:00:00.123456Z");

    private final TimeZone zone = TimeZone.getDefault();

    /** A process far from UTC shows values that were taken for those of another zone. */
    @BeforeEach
    void farAway() {
        TimeZone.setDefault(TimeZone.getTimeZone("Asia/Kathmandu"));
    }

    @AfterEach
    void back() {
        TimeZone.setDefault(zone);
    }

    private enum Status {
        OPEN
    }

    private static Map<String, List<Object>> values(Engine engine) {
        boolean maria = engine == Engine.MARIADB;
        Map<String, List<Object>> all = new LinkedHashMap<>();
        all.put(maria ? "TINYINT(1)" : "BOOLEAN", List.of(true, false, 1, 0));
        all.put("BIGINT", List.of(5, 5L, (short) 5, (byte) 5, new BigInteger("5"), new BigDecimal("5"), "5", 5.0));
        all.put("DECIMAL(10, 2)", List.of(5, 5.5, new BigDecimal("5.50"), new BigDecimal("5.5"), 5L, "5.5", 5.5f));
        all.put(maria ? "DOUBLE" : "DOUBLE PRECISION", List.of(0.1, 5, new BigDecimal("0.1")));
        all.put(maria ? "FLOAT" : "REAL", List.of(0.1, 0.1f, 5));
        all.put("VARCHAR(60)", List.of("x", 'c', Status.OPEN, ID, DayOfWeek.MONDAY));
        all.put(
                "DATE",
                List.of(
                        LocalDate.of(2031, 7, 1),
                        "2031-07-01",
                        Date.valueOf("2031-07-01"),
                        LocalDateTime.of(2031, 7, 1, 0, 0)));
        all.put(
                maria ? "DATETIME(6)" : "TIMESTAMP",
                List.of(
                        LocalDateTime.of(2031, 7, 1, 8, 0, 0, 123_456_000),
                        "2031-07-01T08:00:00",
                        "2031-07-01 08:00",
                        Timestamp.valueOf("2031-07-01 08:00:00.123456"),
                        INSTANT,
                        LocalDate.of(2031, 7, 1),
                        ZonedDateTime.parse("2031-07-01T08:00:00+02:00[Europe/Zurich]")));
        all.put("TIME", List.of(LocalTime.of(8, 30), "08:30", "08:30:00", Time.valueOf("08:30:00")));
        String bytes = engine == Engine.SQLITE ? "BLOB" : "VARBINARY(60)";
        all.put(engine == Engine.POSTGRES ? "BYTEA" : bytes, List.of(new byte[] {1, 2, -1}, "0x0102ff", ID, "text"));
        all.put("JSON", List.of("{\"a\": [1, null]}", "\"text\"", "5"));
        if (engine == Engine.H2 || engine == Engine.POSTGRES) {
            all.put(
                    "TIMESTAMP WITH TIME ZONE",
                    List.of(
                            INSTANT,
                            OffsetDateTime.parse("2031-07-01T08:00:00+02:00"),
                            "2031-07-01T08:00:00+02:00",
                            Timestamp.valueOf("2031-07-01 08:00:00.123456"),
                            new java.util.Date(0)));
            all.put(
                    engine == Engine.H2 ? "VARCHAR(9) ARRAY" : "TEXT[]",
                    List.of(List.of("a", "b"), new String[] {"a"}, List.of()));
            all.put(engine == Engine.H2 ? "INT ARRAY" : "INT[]", List.of(List.of(1, 2), new int[] {1, 2}));
        }
        switch (engine) {
            case H2 -> {
                all.put("INTERVAL DAY TO SECOND", List.of("INTERVAL '1 02:03:04' DAY TO SECOND"));
                all.put("ENUM('OPEN', 'CLOSED')", List.of(Status.OPEN, "CLOSED"));
                all.put("UUID", List.of(ID, ID.toString()));
                all.put("CLOB", List.of("long"));
            }
            case POSTGRES -> {
                all.put("UUID", List.of(ID, ID.toString()));
                all.put("UUID[]", List.of(List.of(ID)));
                all.put("TIMESTAMPTZ[]", List.of(List.of(INSTANT)));
                all.put("NUMERIC", List.of(new BigDecimal("1e-20"), 5));
                all.put("BIT(3)", List.of("101"));
                all.put("INT4RANGE", List.of("[1,5)"));
            }
            case MARIADB -> {
                all.put("BIT(1)", List.of(true, false));
                all.put("TIMESTAMP(6)", List.of(INSTANT, LocalDateTime.of(2031, 7, 1, 8, 0)));
                all.put("ENUM('OPEN', 'CLOSED')", List.of(Status.OPEN, "CLOSED"));
                all.put("SET('a', 'b')", List.of("a,b"));
                all.put("YEAR", List.of(2031));
                all.put("UUID", List.of(ID));
                all.put("BIGINT UNSIGNED", List.of(new BigInteger("18446744073709551615"), 5));
            }
            case SQLITE -> {}
        }
        return all;
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void areFoundAgain(Engine engine) {
        List<String> wrong = new ArrayList<>();
        int[] tables = {0};
        DataSource database = engine.fresh("CREATE TABLE hut (id ${id})");
        try (Stage stage = Jdbc.stage(database)) {
            values(engine).forEach((type, values) -> {
                String table = "t" + tables[0]++;
                Engine.execute(database, "CREATE TABLE " + table + " (id " + engine.id + ", c " + type + ")");
                for (Object value : values) {
                    try {
                        Object id = stage.add(Factory.forTable(table).with("c", value))
                                .get("id");
                        stage.expect(table).where("id", id).holdsOnly(row("c", value));
                        if (!type.equals("JSON")) {
                            stage.expect(table).where("c", value).holds(row("id", id));
                        }
                    } catch (RuntimeException | AssertionError e) {
                        wrong.add(type + ", " + value.getClass().getSimpleName() + " " + value + ": " + e.getMessage());
                    }
                }
            });
        }
        assertEquals(List.of(), wrong);
    }

    /** As classes have them that are older than java.time. */
    record Night(Long id, Timestamp begins, Date held, Time dinner) {}

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void typesOfTheDriversGoInAndComeBack(Engine engine) {
        String point = engine == Engine.MARIADB ? "DATETIME(6)" : "TIMESTAMP";
        try (Stage stage = Jdbc.stage(engine.fresh("CREATE TABLE night (id ${id}, begins " + point
                + " NOT NULL, held DATE NOT NULL, dinner TIME NOT NULL)"))) {
            Night given = stage.add(Factory.forType(Night.class)
                    .with("begins", Timestamp.valueOf("2031-07-01 08:00:00.5"))
                    .with("held", Date.valueOf("2031-07-01"))
                    .with("dinner", Time.valueOf("18:30:00")));
            assertEquals(
                    new Night(
                            given.id(),
                            Timestamp.valueOf("2031-07-01 08:00:00.5"),
                            Date.valueOf("2031-07-01"),
                            Time.valueOf("18:30:00")),
                    given);
            stage.expect(Night.class)
                    .holdsOnly(row("begins", LocalDateTime.of(2031, 7, 1, 8, 0, 0, 500_000_000))
                            .with("held", LocalDate.of(2031, 7, 1))
                            .with("dinner", LocalTime.of(18, 30)));
            Night invented = stage.add(Factory.forType(Night.class));
            stage.expect(Night.class).count(2);
            stage.expect(Night.class).where("id", invented.id()).holds(invented);
        }
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void whatDoesNotFitIsRefused(Engine engine) {
        try (Stage stage =
                Jdbc.stage(engine.fresh("CREATE TABLE night (id ${id}, name VARCHAR(9), beds BIGINT, held DATE)"))) {
            for (Map.Entry<String, Object> wrong : Map.<String, Object>of("name", 5, "beds", 5.5, "held", INSTANT)
                    .entrySet()) {
                String message = assertThrows(
                                ZabbetException.class,
                                () -> stage.add(Factory.forTable("night").with(wrong.getKey(), wrong.getValue())))
                        .getMessage();
                assertEquals(
                        switch (wrong.getKey()) {
                            case "name" -> "5 is not text.";
                            case "beds" -> "5.5 is not a whole number.";
                            default -> INSTANT + " has a time of day, the column keeps only a date.";
                        },
                        message.replaceFirst("night\\.\\w+ is [^,]+, (and )?", ""));
            }
            stage.expect("night").empty();
        }
    }
}
