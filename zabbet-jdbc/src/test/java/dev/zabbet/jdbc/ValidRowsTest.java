package dev.zabbet.jdbc;

import static dev.zabbet.expect.Expected.above;
import static dev.zabbet.expect.Expected.below;
import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertNotEquals;
import static org.junit.jupiter.api.Assertions.assertNotNull;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Table;
import java.util.List;
import java.util.stream.Stream;
import javax.sql.DataSource;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** Rows that are valid although that takes some thought; with nothing said about them. */
class ValidRowsTest {

    private static Stream<Engine> servers() {
        return Engine.all().filter(Engine::isServer);
    }

    @ParameterizedTest(allowZeroInvocations = true)
    @MethodSource("servers")
    void rowsGoWhereThereIsAPart(Engine engine) {
        String ddl = engine == Engine.POSTGRES ? """
                CREATE TABLE stay (id BIGINT GENERATED ALWAYS AS IDENTITY, arrives DATE NOT NULL, kind INT NOT NULL)
                    PARTITION BY RANGE (arrives);
                CREATE TABLE stay_2024 PARTITION OF stay FOR VALUES FROM ('2024-01-01') TO ('2025-01-01')
                    PARTITION BY LIST (kind);
                CREATE TABLE stay_2024_low PARTITION OF stay_2024 FOR VALUES IN (1, 2);
                CREATE TABLE stay_2025 PARTITION OF stay FOR VALUES FROM ('2025-01-01') TO ('2026-01-01');
                CREATE TABLE entry (id BIGINT NOT NULL, note TEXT NOT NULL) PARTITION BY HASH (id);
                CREATE TABLE entry_0 PARTITION OF entry FOR VALUES WITH (MODULUS 2, REMAINDER 0);
                CREATE TABLE entry_1 PARTITION OF entry FOR VALUES WITH (MODULUS 2, REMAINDER 1);
                """ : """
                CREATE TABLE stay (id BIGINT NOT NULL, arrives DATE NOT NULL) PARTITION BY RANGE (YEAR(arrives))
                    (PARTITION p0 VALUES LESS THAN (2010), PARTITION p1 VALUES LESS THAN (2020));
                CREATE TABLE entry (id BIGINT NOT NULL, kind INT NOT NULL) PARTITION BY LIST (kind)
                    (PARTITION p0 VALUES IN (17, 18), PARTITION p1 VALUES IN (70));
                """;
        try (Stage stage = Jdbc.stage(engine.fresh(ddl))) {
            stage.schema().tableNames().forEach(table -> stage.add(30, table));
            stage.expect("stay").count(engine == Engine.POSTGRES ? 30 * 4 : 30);
        }
    }

    /** Keys may look at nulls as alike, at the beginning or the day of a value, or at what is computed from others. */
    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void rowsDifferInWhatTheirKeysLookAt(Engine engine) {
        String ddl =
                switch (engine) {
                    case H2, POSTGRES ->
                        "CREATE TABLE hut (id ${id}, alias VARCHAR(20), beds INT NOT NULL, places INT GENERATED ALWAYS AS"
                                + " (beds * 2)" + (engine == Engine.H2 ? "" : " STORED")
                                + ", seen_at TIMESTAMP NOT NULL,"
                                + " UNIQUE NULLS NOT DISTINCT (alias), UNIQUE (places), CHECK (places > 1900));"
                                + (engine == Engine.H2
                                        ? ""
                                        : "CREATE UNIQUE INDEX day ON hut (date_trunc('day', seen_at));");
                    case MARIADB ->
                        "CREATE TABLE hut (id ${id}, alias TEXT NOT NULL, beds INT NOT NULL, places INT AS (beds * 2),"
                                + " UNIQUE (alias(5)), UNIQUE (places), CHECK (places > 1900));";
                    default ->
                        "CREATE TABLE hut (id ${id}, alias TEXT NOT NULL, beds INT NOT NULL, places INT AS (beds * 2),"
                                + " seen_at TIMESTAMP NOT NULL, UNIQUE (places), CHECK (places > 1900));"
                                + "CREATE UNIQUE INDEX beginning ON hut (substr(alias, 1, 5));"
                                + "CREATE UNIQUE INDEX day ON hut (date(seen_at));";
                };
        try (Stage stage = Jdbc.stage(engine.fresh(ddl))) {
            stage.add("hut");
            stage.add(300, "hut");
            stage.expect("hut").where("places", above(1900)).count(301);
            if (engine == Engine.H2 || engine == Engine.POSTGRES) {
                Stage memory = Memory.stage(stage.schema());
                memory.add(Factory.forTable("hut").with("alias", null));
                assertThrows(
                        ZabbetException.class,
                        () -> memory.add(Factory.forTable("hut").with("alias", null)),
                        "nulls are alike in memory too");
            }
        }
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void theDatabaseIsAskedAboutChecksThatOnlyItUnderstands(Engine engine) {
        String check =
                switch (engine) {
                    case H2 -> "ORA_HASH(code) >= 0 AND SOUNDEX(code) = 'B400'";
                    case POSTGRES -> "md5(code) IN (md5('Bellu'), md5('Bela')) AND code ~ '^B'";
                    case MARIADB -> "SOUNDEX(code) = SOUNDEX('Bell') AND code <> ''";
                    default -> "hex(code) GLOB '42*' AND code IN ('Bellu', 'Bela')";
                };
        DataSource database =
                engine.fresh("CREATE TABLE hut (id ${id}, code VARCHAR(20) NOT NULL CHECK (" + check + "));");
        try (Stage stage = Jdbc.stage(database)) {
            if (engine == Engine.H2) {
                // No text that the condition names keeps it: it is said before anything is stored.
                ZabbetException refusal = assertThrows(ZabbetException.class, () -> stage.add("hut"));
                assertTrue(
                        refusal.getMessage()
                                .startsWith("No values of code are found with which a row of hut keeps its check"),
                        refusal::getMessage);
                assertTrue(
                        refusal.getMessage().endsWith(". Set code to values that keep it. Nothing was stored."),
                        refusal::getMessage);
                stage.add(Factory.forTable("hut").with("code", "Bela"));
            } else {
                stage.add(3, "hut");
            }
        }
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void besideRowsThatAreStored(Engine engine) {
        DataSource database =
                engine.fresh("CREATE TABLE hut (name VARCHAR(20) NOT NULL PRIMARY KEY, beds INT NOT NULL);");
        try (Stage stage = Jdbc.stage(database)) {
            stage.add(50, "hut");
            Engine.execute(database, "DELETE FROM hut WHERE beds > 500");
        }
        try (Stage stage = Jdbc.stage(database)) {
            int before = stage.rows("hut").size();
            stage.add(50, "hut"); // what is counted is fewer than the numbers that were given
            assertEquals(before + 50, stage.rows("hut").size());
        }
        DataSource rooms = engine.fresh("CREATE TABLE room (id ${id}, nr INT NOT NULL UNIQUE);");
        try (Stage stage = Jdbc.stage(rooms)) {
            stage.add(Factory.forTable("room").with("nr", 3));
            stage.act(() -> Engine.execute(rooms, "INSERT INTO room (nr) VALUES (7)"));
            stage.add(10, "room"); // neither what the test said nor what the application stored is in the way
            stage.expect("room").count(12);
        }
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void aFamilyOfRowsSharesItsParents(Engine engine) {
        String ddl = """
                CREATE TABLE tenant (id ${id}, name VARCHAR(40) NOT NULL);
                CREATE TABLE customer (id ${id}, tenant_id BIGINT NOT NULL REFERENCES tenant (id));
                CREATE TABLE hut (id ${id}, tenant_id BIGINT NOT NULL REFERENCES tenant (id));
                CREATE TABLE stay (id ${id}, tenant_id BIGINT NOT NULL REFERENCES tenant (id),
                    customer_id BIGINT NOT NULL REFERENCES customer (id), hut_id BIGINT NOT NULL REFERENCES hut (id));
                CREATE TABLE transfer (id ${id}, from_id BIGINT NOT NULL REFERENCES hut (id),
                    to_id BIGINT NOT NULL REFERENCES hut (id), CHECK (from_id <> to_id));
                """;
        try (Stage stage = Jdbc.stage(engine.fresh(ddl))) {
            stage.add(3, "stay");
            stage.expect("tenant").count(3);
            stage.expect("customer").count(3);
            stage.add(2, "transfer");
            stage.expect("hut").count(3 + 4);
            stage.expect("tenant").count(3 + 2);
        }
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void optionalColumnsOfUnknownTypesStayNullWhereTheOthersAreFilled(Engine engine) {
        String odd =
                switch (engine) {
                    case H2 -> "size ROW(x INT, y INT), sizes JAVA_OBJECT ARRAY";
                    case SQLITE -> "size EXTENT, sizes BULK";
                    case POSTGRES -> "size extent, sizes extent[]";
                    case MARIADB -> "size INT NULL, sizes INT NULL"; // which has no types of one's own
                };
        String ddl = (engine == Engine.POSTGRES ? "CREATE TYPE extent AS (x INT, y INT);" : "")
                + "CREATE TABLE hut (id ${id}, name VARCHAR(20), " + odd + ");";
        try (Stage stage = Jdbc.stage(engine.fresh(ddl))) {
            Row hut = stage.add(Factory.forTable("hut").filled());
            assertNotNull(hut.get("name"));
            assertEquals(engine != Engine.MARIADB, hut.get("size") == null && hut.get("sizes") == null, hut::toString);
        }
    }

    /** Two references of one row to a table that is itself a link lead to two rows that do not link the same. */
    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void bothEndsOfALinkBetweenLinksDiffer(Engine engine) {
        String ddl = "CREATE TABLE hut (id ${id}, name VARCHAR(40) NOT NULL);"
                + "CREATE TABLE guest (id ${id}, name VARCHAR(40) NOT NULL);"
                + "CREATE TABLE stay (id ${id}, hut_id BIGINT NOT NULL REFERENCES hut (id), guest_id BIGINT NOT NULL"
                + " REFERENCES guest (id), UNIQUE (hut_id, guest_id));"
                + "CREATE TABLE swap (id ${id}, from_stay BIGINT NOT NULL REFERENCES stay (id), to_stay BIGINT NOT NULL"
                + " REFERENCES stay (id), UNIQUE (from_stay, to_stay));";
        try (Stage stage = Jdbc.stage(engine.fresh(ddl))) {
            Factory<Row> stays = Factory.forTable("stay");
            Row alone = stage.add("swap");
            Row said =
                    stage.add(Factory.forTable("swap").ref("from_stay", stays).ref("to_stay", stays));
            stage.add(20, "swap");
            for (Row swap : List.of(alone, said)) {
                Row from = stage.expect("stay").one(swap.get("from_stay"));
                Row to = stage.expect("stay").one(swap.get("to_stay"));
                assertNotEquals(from.get("id"), to.get("id"));
            }
            stage.expect("stay").count(44).unique("hut_id", "guest_id");
        }
    }

    /** A condition that repeats a part in each of its alternatives is the list that it comes to. */
    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void alternativesThatShareAPartAreAList(Engine engine) {
        String ddl = "CREATE TABLE hut (id ${id}, country VARCHAR(9) NOT NULL, beds INT NOT NULL, grade VARCHAR(9),"
                + " CONSTRAINT countries CHECK ((beds > 3 AND country = 'Alvia') OR (beds > 3 AND country IN ('Drun',"
                + " 'Mora'))), CONSTRAINT grades CHECK (grade IS NULL OR (beds < 900 AND grade = 'plain') OR (beds < 900"
                + " AND grade = 'fine')));";
        if (engine == Engine.POSTGRES) {
            ddl += "CREATE TABLE stay (id BIGINT GENERATED ALWAYS AS IDENTITY, land VARCHAR(9) NOT NULL, nights INT NOT"
                    + " NULL) PARTITION BY LIST (land);"
                    + "CREATE TABLE stay_a PARTITION OF stay FOR VALUES IN ('Alvia', 'Drun');"
                    + "CREATE TABLE stay_b PARTITION OF stay FOR VALUES IN ('Mora');"
                    + "CREATE TABLE stay_c PARTITION OF stay FOR VALUES IN (NULL, 'Sel');";
        } else if (engine == Engine.MARIADB) {
            ddl += "CREATE TABLE stay (id BIGINT NOT NULL, land VARCHAR(9) NOT NULL) PARTITION BY LIST COLUMNS (land)"
                    + " (PARTITION a VALUES IN ('Alvia', 'Drun'), PARTITION b VALUES IN ('Mora'));";
        }
        try (Stage stage = Jdbc.stage(engine.fresh(ddl))) {
            stage.add(60, Factory.forTable("hut").filled());
            List.of("Alvia", "Drun", "Mora")
                    .forEach(land -> stage.expect("hut").where("country", land).holds(row("beds", above(3))));
            List.of("plain", "fine")
                    .forEach(grade -> stage.expect("hut").where("grade", grade).holds(row("beds", below(900))));
            for (Table table : stage.schema().tables()) {
                if (table.name().startsWith("stay")) {
                    stage.add(30, table.name());
                }
            }
        }
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void aKeyWithFewValuesSaysWhenItIsFull(Engine engine) {
        String ddl = "CREATE TABLE bed (side VARCHAR(5) NOT NULL CHECK (side IN ('left', 'right')), level INT NOT NULL"
                + " CHECK (level BETWEEN 1 AND 3), PRIMARY KEY (side, level));";
        try (Stage stage = Jdbc.stage(engine.fresh(ddl))) {
            assertEquals(
                    "Only 6 rows of bed can be different by (side, level), and 7 are asked for. Give those columns values of"
                            + " your own, or ask for fewer.",
                    assertThrows(ZabbetException.class, () -> stage.add(7, "bed"))
                            .getMessage());
            stage.add(6, "bed");
            assertEquals(
                    "The rows of bed that are stored leave no room for others that are different by (side, level). Give those"
                            + " columns values of your own.",
                    assertThrows(ZabbetException.class, () -> stage.add("bed")).getMessage());
        }
        if (engine != Engine.POSTGRES) {
            return;
        }
        String exclusion =
                "CREATE TABLE booking (id ${id}, during DATERANGE NOT NULL, EXCLUDE USING gist (during WITH &&));";
        try (Stage stage = Jdbc.stage(engine.fresh(exclusion))) {
            stage.add(40, "booking");
        }
    }
}
