package dev.zabbet.jdbc;

import static org.junit.jupiter.api.Assertions.assertEquals;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.memory.MemoryStore;
import dev.zabbet.jdbc.internal.dialect.TableSql;
import dev.zabbet.jdbc.internal.engine.Engines;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.math.BigDecimal;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Clock;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import javax.sql.DataSource;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** What a database's functions say of a value in a check, the rows in memory say too. */
class ChecksAgreeTest {
    private static final Map<String, List<Object>> VALUES = new LinkedHashMap<>();

    static {
        VALUES.put(
                "VARCHAR(40)",
                Arrays.asList(
                        "Oberalm",
                        "oberalm",
                        "OBERALM",
                        "",
                        " ",
                        "  alm ",
                        "a%b",
                        "a_b",
                        "äöü",
                        "山小屋",
                        "a.b",
                        "[x]",
                        "2031",
                        "Alm\nzwei",
                        "o'neil",
                        "alm alm",
                        null));
        VALUES.put(
                "DECIMAL(8, 3)",
                Arrays.asList(
                        new BigDecimal("0"),
                        new BigDecimal("0.5"),
                        new BigDecimal("1.5"),
                        new BigDecimal("2.5"),
                        new BigDecimal("-0.5"),
                        new BigDecimal("-1.5"),
                        new BigDecimal("-2.499"),
                        new BigDecimal("7"),
                        new BigDecimal("-7"),
                        new BigDecimal("1234.125"),
                        null));
        VALUES.put("INT", Arrays.asList(0L, 1L, -1L, 7L, -7L, 10L, 100L, 2147483647L, null));
        VALUES.put(
                "DATE",
                Arrays.asList(
                        LocalDate.of(2031, 7, 1),
                        LocalDate.of(2031, 12, 31),
                        LocalDate.of(2032, 1, 1),
                        LocalDate.of(2032, 2, 29),
                        LocalDate.of(2029, 1, 1),
                        LocalDate.of(2031, 3, 30),
                        null));
        VALUES.put(
                "TIMESTAMP",
                Arrays.asList(
                        LocalDateTime.of(2031, 7, 1, 8, 0),
                        LocalDateTime.of(2031, 12, 31, 23, 59, 59),
                        LocalDateTime.of(2032, 2, 29, 0, 0),
                        LocalDateTime.of(2031, 3, 30, 12, 30, 15),
                        null));
    }

    /** Conditions on a column v, by its type; those that a database does not know are left out there. */
    private static final Map<String, List<String>> CHECKS = Map.of(
            "VARCHAR(40)",
            List.of(
                    "length(v) > 3",
                    "char_length(v) BETWEEN 1 AND 7",
                    "octet_length(v) < 7",
                    "lower(v) = v",
                    "upper(v) <> v",
                    "trim(v) = v",
                    "ltrim(v) = v AND rtrim(v) = v",
                    "v LIKE 'O%'",
                    "v NOT LIKE '%alm'",
                    "v LIKE '_lm%'",
                    "v LIKE 'a!%%' ESCAPE '!'",
                    "v ILIKE 'o%'",
                    "v GLOB 'O*m'",
                    "v GLOB '[ao]?*'",
                    "v SIMILAR TO '(O|o)%'",
                    "v ~ '^[A-Z]'",
                    "v !~* 'alm$'",
                    "v REGEXP '^[a-z]+$'",
                    "REGEXP_LIKE(v, '^[A-Za-z]+$')",
                    "substr(v, 2, 3) <> 'ber'",
                    "substring(v FROM 1 FOR 1) = 'O'",
                    "left(v, 2) = 'Ob'",
                    "right(v, 3) = 'alm'",
                    "replace(v, 'alm', '') <> v",
                    "position('alm' IN v) > 0",
                    "instr(v, 'l') = 2",
                    "strpos(v, 'b') > 0",
                    "concat(v, '!') <> '!'",
                    "v || 'x' <> 'x'",
                    "coalesce(v, 'none') <> ''",
                    "nullif(v, '') IS NOT NULL",
                    "v IN ('Oberalm', 'a_b') OR v IS NULL",
                    "v > 'a'",
                    "v <> '' AND NOT v = ' '",
                    "CASE WHEN v = 'a%b' THEN 1 WHEN length(v) > 5 THEN 2 ELSE 3 END < 3",
                    "greatest(length(v), 4) = 4",
                    "least(v, 'm') = 'm'",
                    "v IS DISTINCT FROM 'Oberalm'",
                    "(v IS NULL) = FALSE"),
            "DECIMAL(8, 3)",
            List.of(
                    "round(v) = v",
                    "round(v) > 1",
                    "round(v, 1) <> v",
                    "floor(v) = -1",
                    "ceil(v) = 2",
                    "ceiling(v) > v",
                    "abs(v) > 2",
                    "sign(v) >= 0",
                    "mod(v, 2) = 1",
                    "v % 2 = 1",
                    "v * 2 = floor(v * 2)",
                    "v / 2 > 1",
                    "v + 1 > 0 AND v - 1 < 10",
                    "-v > 0",
                    "v BETWEEN -1 AND 1",
                    "v NOT BETWEEN 0 AND 5",
                    "v = 1.50",
                    "CAST(v AS INTEGER) = 2",
                    "nullif(v, 0) IS NOT NULL"),
            "INT",
            List.of(
                    "v / 2 = 3",
                    "v % 3 = 1",
                    "mod(v, 3) = -1",
                    "v - 1 > 10",
                    "v IN (1, 7, 10)",
                    "v BETWEEN 1 AND 10 IS NOT FALSE",
                    "NOT (v > 5 AND v < 50)",
                    "abs(v) = 7",
                    "v = 7 OR v = -7",
                    "v + 0.5 > 7",
                    "v / 2.0 = 3.5",
                    "coalesce(v, 0) = 0"),
            "DATE",
            List.of(
                    "extract(year FROM v) = 2031",
                    "extract(month FROM v) IN (1, 7)",
                    "extract(day FROM v) > 28",
                    "extract(quarter FROM v) = 1",
                    "extract(week FROM v) = 1",
                    "extract(dow FROM v) = 0",
                    "extract(isodow FROM v) < 6",
                    "extract(doy FROM v) = 1",
                    "year(v) = 2031",
                    "month(v) > 6",
                    "date_trunc('month', v) = v",
                    "date_part('year', v) > 2030",
                    "v >= DATE '2031-07-01'",
                    "v BETWEEN '2031-01-01' AND '2031-12-31'",
                    "v <> '2032-02-29'"),
            "TIMESTAMP",
            List.of(
                    "extract(hour FROM v) < 12",
                    "extract(minute FROM v) = 30",
                    "extract(second FROM v) = 0",
                    "date_trunc('day', v) = v",
                    "date_trunc('hour', v) = v",
                    "date_trunc('week', v) < v",
                    "CAST(v AS DATE) = '2031-07-01'",
                    "v > '2031-07-01 08:00:00'",
                    "v < TIMESTAMP '2031-12-31 00:00:00'"));

    /** What one database alone sees in another way, so that rows in memory, which stand for all, do not. */
    private static final Map<Engine, List<String>> ELSEWHERE_ONLY = Map.of(
            Engine.H2, // the rest of a division is as whole as what divides, weeks begin as the JVM's country has it
            List.of("mod(v, 2) = 1", "v % 2 = 1", "extract(dow FROM v) = 0", "date_trunc('week', v) < v"),
            Engine.POSTGRES,
            List.of(),
            Engine.SQLITE, // letters of ASCII only, LIKE without case, whole numbers cut off, no days
            List.of(
                    "upper(v) <> v",
                    "v LIKE 'O%'",
                    "v NOT LIKE '%alm'",
                    "v % 2 = 1",
                    "CAST(v AS INTEGER) = 2",
                    "CAST(v AS DATE) = '2031-07-01'"),
            Engine.MARIADB, // a quotient has decimals, || is OR, a text with nothing is nothing
            List.of("v / 2 = 3", "v || 'x' <> 'x'", "concat(v, '!') <> '!'"));

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void withWhatTheDatabaseSays(Engine engine) throws Exception {
        DataSource database = engine.fresh("CREATE TABLE other (id ${id});");
        Map<String, String> checks = new LinkedHashMap<>();
        try (Connection connection = database.getConnection();
                Statement statement = connection.createStatement()) {
            for (Map.Entry<String, List<Object>> type : VALUES.entrySet()) {
                List<String> wanted = new ArrayList<>(CHECKS.get(type.getKey()));
                wanted.removeAll(ELSEWHERE_ONLY.get(engine));
                for (String check : wanted) {
                    String name = "c" + checks.size();
                    String text = " CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin"; // as other databases compare
                    String more;
                    if (engine != Engine.MARIADB) {
                        more = "";
                    } else if (type.getKey().startsWith("V")) {
                        more = text;
                    } else {
                        more = " NULL";
                    }
                    try {
                        statement.execute("CREATE TABLE " + name + " (id BIGINT PRIMARY KEY, v " + type.getKey() + more
                                + ", CHECK (" + check + "))");
                        checks.put(name, type.getKey() + ": " + check);
                    } catch (SQLException e) {
                        checks.put(name, ""); // not known there
                    }
                }
            }
            checks.values().removeIf(String::isEmpty);
            Schema schema = Jdbc.schema(database);
            MemoryStore memory = new MemoryStore(schema, Clock.systemUTC());
            List<String> different = new ArrayList<>();
            List<String> answers = new ArrayList<>();
            for (Map.Entry<String, String> check : checks.entrySet()) {
                Table table = schema.require(check.getKey());
                if (memory.notEnforced().stream().anyMatch(text -> text.startsWith(table.name() + ":"))) {
                    different.add(check.getValue() + " is not understood: "
                            + table.checks().get(0).text());
                    continue;
                }
                long id = 1;
                for (Object value : VALUES.get(check.getValue().replaceFirst(": .*", ""))) {
                    Row row = Row.row("id", id++).with("v", value);
                    String there = stored(() -> new TableSql(Engines.of(connection), table).restore(connection, row));
                    String here = stored(() -> memory.insert(table, row));
                    answers.add(there);
                    if (!there.equals(here)) {
                        different.add(
                                check.getValue() + " of " + row.get("v") + " is " + there + ", in memory " + here);
                    }
                }
            }
            System.out.println(engine + ": " + checks.size() + " checks, "
                    + answers.stream().filter("accepted"::equals).count() + " of " + answers.size() + " rows accepted");
            assertEquals("", String.join("\n", different));
        }
    }

    @Test
    void whatNobodyUnderstandsIsNamed() {
        DataSource database = Engine.H2.fresh(
                "CREATE TABLE hut (id ${id}, name VARCHAR(20), CHECK (SOUNDEX(name) <> 'S650' OR name LIKE 'O%'));");
        assertEquals(
                List.of("hut: check (SOUNDEX(\"NAME\") <> 'S650') OR (\"NAME\" LIKE 'O%')"),
                new MemoryStore(Jdbc.schema(database), Clock.systemUTC())
                        .notEnforced().stream()
                                .map(text -> text.replaceAll("\\s+", " "))
                                .toList());
    }

    private interface Storing {
        void run() throws SQLException;
    }

    private static String stored(Storing work) {
        try {
            work.run();
            return "accepted";
        } catch (SQLException | ZabbetException e) {
            return "refused";
        }
    }
}
