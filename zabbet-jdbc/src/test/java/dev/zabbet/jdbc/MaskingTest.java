package dev.zabbet.jdbc;

import static org.junit.jupiter.api.Assertions.assertArrayEquals;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertFalse;
import static org.junit.jupiter.api.Assertions.assertNotEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;
import static org.junit.jupiter.api.Assumptions.assumeTrue;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.extract.Extract;
import dev.zabbet.extract.ExtractSummary;
import dev.zabbet.extract.ExtractTarget;
import dev.zabbet.extract.ExtractedRow;
import dev.zabbet.extract.MaskedColumn;
import dev.zabbet.extract.Masking;
import dev.zabbet.extract.SeedTarget;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.math.BigDecimal;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermission;
import java.util.ArrayList;
import java.util.Base64;
import java.util.Collections;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import javax.sql.DataSource;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** Personal values in disguise are found, and nothing of them is written. */
class MaskingTest {
    private static final Masking MASKING = Masking.withSecret("a secret of the tests");

    @Test
    void sixtyColumnsInDisguiseAreFoundAndSixtyLookAlikesAreKept() {
        Map<String, String> first = new TreeMap<>();
        for (Engine engine : Engine.all().toList()) {
            PlantedPersons planted = new PlantedPersons(engine);
            assertEquals(
                    List.of(60, 60),
                    List.of(planted.personal().size(), planted.harmless().size()));
            DataSource database = engine.fresh(planted.ddl());
            Engine.execute(database, planted.inserts(engine).toArray(String[]::new));
            Extract extract = null;
            for (String table :
                    List.of("kunde", "usr", "x1", "cliente", "audit", "patient", "product", "setting", "hut_room")) {
                extract = extract == null ? Extract.all(table) : extract.andAll(table);
            }
            SeedTarget target = new SeedTarget();
            ExtractSummary summary = Extracts.take(database, extract, MASKING, target);

            Map<String, MaskedColumn> columns = new TreeMap<>(String.CASE_INSENSITIVE_ORDER);
            summary.columns().forEach(column -> columns.put(column.name(), column));
            List<String> missed = planted.personal().stream()
                    .filter(name ->
                            !columns.containsKey(name) || !columns.get(name).isMasked())
                    .toList();
            List<String> accused = planted.harmless().stream()
                    .filter(name ->
                            columns.containsKey(name) && columns.get(name).isMasked())
                    .map(name -> name + ": " + columns.get(name).why())
                    .toList();
            assertEquals(List.of(), missed, engine + ": not found");
            assertTrue(accused.size() <= 3, () -> engine + ": masked without need: " + accused);

            String written = target.seed().rows().stream()
                    .map(row -> row.label() + " " + row.values())
                    .collect(Collectors.joining("\n"));
            List<String> left = new ArrayList<>();
            planted.originals().stream().filter(written::contains).forEach(left::add);
            assertEquals(List.of(), left, engine + ": originals in what is written");

            Map<String, String> now = new TreeMap<>();
            target.seed().rows().forEach(row -> row.values().columns().forEach(column -> {
                String name = row.table() + "." + column.toLowerCase(Locale.ROOT);
                boolean personal = planted.personal().stream().anyMatch(name::equalsIgnoreCase);
                if (personal && !column.equals("avatar")) { // an array's text is its address
                    Object value = row.values().get(column);
                    String text = value instanceof BigDecimal number
                            ? number.stripTrailingZeros().toPlainString()
                            : String.valueOf(value);
                    now.merge(name, text, (a, b) -> a + "|" + b);
                }
            }));
            if (first.isEmpty()) {
                first.putAll(now);
            }
            first.keySet().forEach(name -> assertEquals(first.get(name), now.get(name), engine + ", " + name));
            System.out.println(engine + ": " + planted.personal().size() + " found, masked without need: " + accused);
        }
    }

    /** What users decide counts before everything; checks, keys, uniqueness and references hold with masked values. */
    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void maskedRowsStayValid(Engine engine) {
        String json = engine == Engine.POSTGRES ? "jsonb" : "JSON";
        String ddl = """
                CREATE TABLE member (email VARCHAR(24) NOT NULL PRIMARY KEY CHECK (email LIKE '%_@_%'), code CHAR(2) NOT NULL UNIQUE,
                    born DATE NOT NULL, joined_on DATE NOT NULL, iban VARCHAR(34), profile JSON_TYPE, tag VARCHAR(20),
                    CHECK (born < joined_on));
                CREATE TABLE visit (id ${id}, member_email VARCHAR(24) NOT NULL, note VARCHAR(30) NOT NULL CHECK (LENGTH(note) > 8),
                    FOREIGN KEY (member_email) REFERENCES member (email));
                """.replace("JSON_TYPE", json);
        DataSource database = engine.fresh(ddl);
        List<String> sql = new ArrayList<>();
        for (int i = 0; i < 60; i++) {
            String profile = "{\"nick\": \"alva" + i + "\", \"sizes\": [38, 40], \"shown\": true, \"by\": {\"alva" + i
                    + "@post.example\": 1}}";
            sql.add("INSERT INTO member VALUES ('a" + i + "@b.ch', '" + (char) ('a' + i / 26) + (char) ('a' + i % 26)
                    + "', '2001-03-04',"
                    + " '2001-06-0" + (1 + i % 9) + "', 'CH9300762011623852957', "
                    + (engine == Engine.H2 ? "JSON " : "") + "'" + profile
                    + "', 'gold')");
            sql.add("INSERT INTO visit (member_email, note) VALUES ('a" + i + "@b.ch', 'seen by Ylva " + i + "')");
        }
        Engine.execute(database, sql.toArray(String[]::new));
        Masking masking = MASKING.mask("member.code", "member.profile").keep("member.iban");
        SeedTarget target = new SeedTarget();
        ExtractSummary summary = Extracts.take(database, Extract.all("visit"), masking, target);
        Map<String, String> kinds = new TreeMap<>();
        summary.columns().forEach(column -> kinds.put(column.name(), column.kind() + ", " + column.why()));
        assertEquals("E-mail address, holds E-mail addresses", kinds.get("member.email"));
        assertEquals("E-mail address, holds E-mail addresses", kinds.get("visit.member_email"));
        assertEquals("personal value, asked for", kinds.get("member.code"));
        assertEquals("personal value, asked for", kinds.get("member.profile.nick"));
        assertEquals(", asked for", kinds.get("member.iban"));
        assertEquals(", shows no sign of persons", kinds.get("member.tag"));
        try (Stage stage = Jdbc.stage(engine.fresh(ddl))) {
            stage.load(target.seed());
            stage.expect("member").count(60);
            stage.expect("visit").count(60);
            stage.expect("member").where("iban", "CH9300762011623852957").count(60);
            for (Row row : stage.rows("member")) {
                String profile = String.valueOf(row.get("profile"));
                assertTrue(profile.contains("\"shown\"") && !profile.contains("alva"), profile); // nor as a name
                String email = String.valueOf(row.get("email"));
                assertTrue(email.matches("[a-z]\\d+@[a-z]\\.test"), email);
                assertNotEquals("2001-03-04", String.valueOf(row.get("born")));
            }
        }
        ZabbetException full = assertThrows(
                ZabbetException.class,
                () -> Extracts.take(database, Extract.all("visit"), MASKING.mask("visit.nothing"), new SeedTarget()));
        assertTrue(full.getMessage().startsWith("There is no column named 'visit.nothing'."), full.getMessage());
    }

    @Test
    void theSecretIsMadeOnceAndNeverShown(@TempDir Path folder) throws Exception {
        Path file = folder.resolve("new/secret");
        Masking made = Masking.withSecretOf(file);
        String secret = Files.readString(file).strip();
        assertTrue(secret.length() >= 40, secret);
        assertEquals(
                Set.of(PosixFilePermission.OWNER_READ, PosixFilePermission.OWNER_WRITE),
                Files.getPosixFilePermissions(file));
        assertArrayEquals(made.secret(), Masking.withSecretOf(file).secret());
        assertEquals("masking", made.toString());
        assertEquals(
                "The secret for masking has 5 characters, and at least 16 are needed; short ones are found by trying.",
                assertThrows(ZabbetException.class, () -> Masking.withSecret("short"))
                        .getMessage());
        DataSource database = Engine.H2.fresh("CREATE TABLE guest (id ${id}, full_name VARCHAR(40))");
        Engine.execute(database, "INSERT INTO guest (full_name) VALUES ('Alva Nett'), ('Li Nett'), ('alva nett')");
        List<List<Object>> names = new ArrayList<>();
        for (Masking masking : List.of(made, made, Masking.withSecret("another secret, as long"))) {
            SeedTarget target = new SeedTarget();
            Extracts.take(database, Extract.all("guest"), masking, target);
            names.add(target.seed().rows().stream()
                    .map(row -> row.values().get("full_name"))
                    .toList());
        }
        assertEquals(names.get(0), names.get(1));
        assertNotEquals(names.get(0), names.get(2));
        String first = String.valueOf(names.get(0).get(0));
        assertEquals(first.substring(5), String.valueOf(names.get(0).get(1)).substring(3), "the same family name");
        assertEquals(first.toLowerCase(Locale.ROOT), names.get(0).get(2), "case is a matter of writing");
    }

    /** Labels are made of keys: of masked ones, masked; and digits of other scripts are digits. */
    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void nothingStandsInLabels(Engine engine) {
        String ddl = """
                CREATE TABLE hut (id ${id}, name VARCHAR(40) NOT NULL UNIQUE);
                CREATE TABLE contact (hut_id BIGINT NOT NULL, phone VARCHAR(30) NOT NULL, full_name VARCHAR(40) NOT NULL,
                    PRIMARY KEY (hut_id, phone), FOREIGN KEY (hut_id) REFERENCES hut (id));
                CREATE TABLE call_log (id ${id}, hut_id BIGINT NOT NULL, phone VARCHAR(30) NOT NULL,
                    FOREIGN KEY (hut_id, phone) REFERENCES contact (hut_id, phone));
                """;
        DataSource database = engine.fresh(ddl);
        Engine.execute(
                database,
                "INSERT INTO hut (id, name) VALUES (1, 'Edelgrat')",
                "INSERT INTO contact VALUES (1, '+41 81 555 01 02', 'Алва Нетт ٤٢٧')",
                "INSERT INTO call_log (hut_id, phone) VALUES (1, '+41 81 555 01 02')");
        SeedTarget target = new SeedTarget();
        Extracts.take(database, Extract.all("call_log"), MASKING, target);
        String written = target.seed().rows().toString();
        assertTrue(written.contains("edelgrat-41-"), written);
        for (String original : List.of("555-01-02", "555 01 02", "Алва", "Нетт", "٤٢٧")) {
            assertFalse(written.contains(original), original + " in " + written);
        }
        try (Stage stage = Jdbc.stage(engine.fresh(ddl))) {
            stage.load(target.seed());
            stage.expect("call_log").count(1);
        }
    }

    /** Both columns of a reference hold the same value, though one has more room. */
    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void bothSidesOfAReferenceStayEqual(Engine engine) {
        assumeTrue(engine != Engine.MARIADB, "which wants columns of one length");
        DataSource database = engine.fresh(
                "CREATE TABLE member (email VARCHAR(9) NOT NULL PRIMARY KEY);"
                        + " CREATE TABLE visit (id ${id}, email VARCHAR(60) NOT NULL, FOREIGN KEY (email) REFERENCES member (email))");
        Engine.execute(
                database, "INSERT INTO member VALUES ('alva@x.ch')", "INSERT INTO visit (email) VALUES ('alva@x.ch')");
        List<Object> written = new ArrayList<>();
        Extracts.take(database, Extract.all("visit"), MASKING, new Keys(written));
        assertEquals(2, written.size());
        assertEquals(written.get(0), written.get(1));
        assertNotEquals("alva@x.ch", written.get(0));
    }

    /** Takes the addresses of rows with their keys. */
    private record Keys(List<Object> emails) implements ExtractTarget {
        @Override
        public boolean wantsLabels() {
            return false;
        }

        @Override
        public void begin(Schema schema, List<Table> tables) {
            emails.clear();
        }

        @Override
        public void row(ExtractedRow row) {
            emails.add(String.valueOf(row.row().get("email")));
        }

        @Override
        public void end() {
            // they are looked at where they are
        }

        @Override
        public void close() {
            // nothing is open
        }
    }

    @Test
    void aDocumentThatIsNoneIsNotLetThrough() {
        DataSource database = Engine.SQLITE.fresh("CREATE TABLE guest (id INTEGER PRIMARY KEY, profile JSON)");
        Engine.execute(
                database,
                "INSERT INTO guest VALUES (1, '{\"phone\": \"079 555 01 02\"}')",
                "INSERT INTO guest VALUES (2, '{phone: 079 555 01 02}')");
        ZabbetException stopped = assertThrows(
                ZabbetException.class, () -> Extracts.take(database, Extract.all("guest"), MASKING, new SeedTarget()));
        assertEquals(
                "Nothing was written: guest.profile holds a text that is no JSON document, so that nothing can be masked inside."
                        + " Leave the column out by --without guest.profile.",
                stopped.getMessage());
    }

    /** Several processes need a secret at once: one makes it, and it is whole when the others read it. */
    @Test
    void oneSecretIsMade(@TempDir Path folder) throws Exception {
        ExecutorService threads = Executors.newFixedThreadPool(8);
        try {
            for (int round = 0; round < 20; round++) {
                Path file = folder.resolve("secret" + round);
                List<Future<String>> made = threads.invokeAll(Collections.nCopies(8, () -> Base64.getEncoder()
                        .encodeToString(Masking.withSecretOf(file).secret())));
                Set<String> secrets = new HashSet<>();
                for (Future<String> one : made) {
                    secrets.add(one.get());
                }
                assertEquals(1, secrets.size());
            }
            try (Stream<Path> files = Files.list(folder)) {
                assertEquals(20, files.count());
            }
        } finally {
            threads.shutdownNow();
        }
    }
}
