package dev.zabbet.jdbc;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Bulk;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import java.util.ArrayList;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.TreeMap;
import javax.sql.DataSource;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** Rows of several tables stored together, whole and in parts. */
class BulkTest {
    private static final int RUNS = Integer.getInteger("zabbet.runs", 4);
    private static final long FIRST = Long.getLong("zabbet.firstVariation", 1);
    private static final String HUTS = """
            CREATE TABLE hut (id ${id}, name VARCHAR(40) NOT NULL UNIQUE, beds INT NOT NULL CHECK (beds > 3));
            CREATE TABLE guest (email VARCHAR(60) PRIMARY KEY, born DATE NOT NULL);
            CREATE TABLE warden (id ${id}, hut_id BIGINT NOT NULL UNIQUE, FOREIGN KEY (hut_id) REFERENCES hut (id));
            CREATE TABLE stay (id ${id}, hut_id BIGINT NOT NULL, nights INT NOT NULL,
              FOREIGN KEY (hut_id) REFERENCES hut (id));
            CREATE TABLE stay_guest (stay_id BIGINT NOT NULL, email VARCHAR(60) NOT NULL, PRIMARY KEY (stay_id, email),
              FOREIGN KEY (stay_id) REFERENCES stay (id), FOREIGN KEY (email) REFERENCES guest (email));
            """;
    private static final Bulk SEASON =
            Bulk.of(3, "hut").and(5, "guest").and(3, "warden").and(7, "stay").and(35, "stay_guest");

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void rowsReferToTablesNamedBefore(Engine engine) {
        try (Stage stage = Jdbc.stage(engine.fresh(HUTS))) {
            stage.add(2, "hut"); // rows that were there before are left alone
            Map<String, Integer> stored = stage.add(SEASON);
            assertEquals(
                    Map.of("hut", 3, "guest", 5, "warden", 3, "stay", 7, "stay_guest", 35),
                    stored,
                    "nothing had to come along");
            stage.expect("warden").select("hut_id").holdsOnly(row("hut_id", 3), row("hut_id", 4), row("hut_id", 5));
            stage.expect("stay").where("hut_id", 1).empty();
            assertEquals(35, stage.rows("stay_guest").stream().distinct().count(), "every pair of stay and guest");
            assertEquals(
                    "Only 3 rows of warden can be different by (hut_id), and 4 are asked for. Give those columns values of"
                            + " your own, or ask for fewer.",
                    assertThrows(
                                    ZabbetException.class,
                                    () -> stage.add(Bulk.of(3, "hut").and(4, "warden")))
                            .getMessage());
            assertEquals(5, stage.rows("hut").size(), "nothing of a bulk that cannot be made");
        }
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void partsStoreWhatOneProcessWould(Engine engine) {
        List<String> failures = new ArrayList<>();
        for (long variation = FIRST; variation < FIRST + RUNS; variation++) {
            Random random = new Random(variation);
            String ddl = random.nextInt(3) == 0 ? HUTS : new RandomSchema(engine, new Random(variation)).ddl();
            try {
                compare(engine, ddl, random);
            } catch (AssertionError | RuntimeException e) {
                failures.add("variation " + variation + ": " + e.getMessage() + "\n" + ddl);
            }
        }
        assertTrue(failures.isEmpty(), () -> engine + "\n" + String.join("\n", failures));
        System.out.println("parts on " + engine + ": variations " + FIRST + " to " + (FIRST + RUNS - 1));
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void rowsWrittenAsSqlAreThoseThatWouldBeStored(Engine engine) throws Exception {
        List<String> failures = new ArrayList<>();
        for (long variation = FIRST; variation < FIRST + RUNS; variation++) {
            Random random = new Random(variation);
            String ddl = new RandomSchema(engine, new Random(variation)).ddl();
            DataSource stored = engine.fresh(ddl);
            DataSource written = engine.fresh(ddl);
            Bulk bulk = bulk(Jdbc.schema(stored), false, random);
            StringBuilder sql = new StringBuilder();
            try {
                try (Stage reading = Jdbc.reading(written)) {
                    Jdbc.writeInserts(reading, reading.planned(bulk), sql);
                }
                store(stored, bulk, false);
                Jdbc.runSql(written, sql.toString());
                Map<String, Object> expected = contents(stored);
                Map<String, Object> found = contents(written);
                expected.forEach((table, rows) -> {
                    if (!table.endsWith(" next")) { // numbers that were only thought of are not left out there
                        assertEquals(rows, found.get(table), () -> table + " of " + bulk);
                    }
                });
            } catch (AssertionError | RuntimeException e) {
                if (!isNoRoom(e)) {
                    failures.add("variation " + variation + ": " + e.getMessage() + "\n" + sql + ddl);
                }
            }
        }
        assertTrue(failures.isEmpty(), () -> engine + "\n" + String.join("\n", failures));
    }

    private static void compare(Engine engine, String ddl, Random random) {
        DataSource whole = engine.fresh(ddl);
        DataSource inParts = engine.fresh(ddl);
        Bulk bulk = bulk(Jdbc.schema(whole), ddl.equals(HUTS), random);
        int parts = 1 + random.nextInt(5);
        List<Integer> order = new ArrayList<>();
        for (int part = 1; part <= parts; part++) {
            order.add(part);
        }
        boolean leftover = random.nextBoolean();
        for (int round = 0; round < 2; round++) { // a second round begins where the first ended
            try {
                store(whole, bulk, leftover);
            } catch (ZabbetException e) {
                assertTrue(isNoRoom(e), e.getMessage());
                return; // a key has no room for so many rows
            }
            Collections.shuffle(order, random);
            for (int i = 0; i < parts; i++) {
                store(inParts, bulk.part(order.get(i), parts), leftover && i == 0);
                if (parts > 1 && i < parts - 1) {
                    Bulk again = bulk.part(order.get(i), parts);
                    String refusal = assertThrows(ZabbetException.class, () -> store(inParts, again, false))
                            .getMessage();
                    assertTrue(refusal.contains("is stored already; missing: "), refusal);
                }
            }
            Map<String, Object> expected = contents(whole);
            Map<String, Object> found = contents(inParts);
            String when = " of " + bulk + ", parts in the order " + order + ", round " + round;
            expected.forEach((table, rows) -> assertEquals(rows, found.get(table), () -> table + when));
        }
    }

    private static boolean isNoRoom(Throwable e) {
        String message = String.valueOf(e.getMessage());
        return message.contains("can be different by") || message.contains("leave no room");
    }

    private static void store(DataSource database, Bulk bulk, boolean withOneMore) {
        try (Stage stage = Jdbc.stage(database)) {
            if (withOneMore) {
                stage.add(stage.schema().tableNames().get(0));
            }
            stage.add(bulk);
        }
    }

    private static Bulk bulk(Schema schema, boolean huts, Random random) {
        if (huts) {
            return SEASON;
        }
        List<String> tables = new ArrayList<>(schema.tableNames());
        Collections.shuffle(tables, random);
        Bulk bulk = Bulk.of(1 + random.nextInt(9), tables.get(0));
        for (String table : tables.subList(1, Math.min(4, tables.size()))) {
            bulk = bulk.and(1 + random.nextInt(9), table);
        }
        return random.nextBoolean() ? bulk.filled() : bulk;
    }

    /** All rows, and the next number of each table; what the database's own clock filled in is left out. */
    private static Map<String, Object> contents(DataSource database) {
        Map<String, Object> all = new LinkedHashMap<>();
        try (Stage stage = Jdbc.stage(database)) {
            stage.schema().tables().forEach(table -> {
                Map<String, Integer> rows = new TreeMap<>();
                for (Row row : stage.rows(table.name())) {
                    Map<String, Object> values = new LinkedHashMap<>();
                    table.columns().stream()
                            .filter(c -> !c.defaultText()
                                    .orElse("")
                                    .toLowerCase(java.util.Locale.ROOT)
                                    .matches(".*(now|current|uuid|random).*"))
                            .forEach(c -> values.put(c.name(), dev.zabbet.internal.value.Text.cell(row.get(c.name()))));
                    rows.merge(values.toString(), 1, Integer::sum);
                }
                all.put(table.name(), rows);
            });
            stage.schema().tables().forEach(table -> table.numberedColumn()
                    .ifPresent(
                            c -> all.put(table.name() + " next", stage.store().reserve(table, 1))));
        }
        return all;
    }
}
