package dev.zabbet.jdbc;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;
import static org.junit.jupiter.api.Assumptions.assumeTrue;

import dev.zabbet.Stage;
import dev.zabbet.factory.Factory;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Generation;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.TableNature.Form;
import dev.zabbet.schema.UniqueKey;
import dev.zabbet.store.RewindPoint;
import dev.zabbet.type.DataType;
import dev.zabbet.type.Kind;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;
import javax.sql.DataSource;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** What is particular to each database is read as what it is, and footprints and rewinds cope with it. */
class SchemaReadingTest {
    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void namesThatNeedQuotesWork(Engine engine) {
        String quote = engine == Engine.MARIADB ? "`" : "\"";
        String ddl =
                "CREATE TABLE 'Mixed Case' (id ${id}, 'order' INT NOT NULL, 'Größe' INT NOT NULL, plain VARCHAR(9));"
                        + "CREATE TABLE 'select' (id ${id}, 'from' BIGINT NOT NULL REFERENCES 'Mixed Case' (id));";
        try (Stage stage = Jdbc.stage(engine.fresh(ddl.replace("'", quote)))) {
            assertEquals(
                    List.of("Mixed Case", "select"),
                    stage.schema().tableNames().stream().sorted().toList());
            RewindPoint point = stage.mark();
            Row row = stage.add("select");
            stage.expect("mixed case")
                    .holdsOnly(row("ID", row.get("from"))
                            .with("größe", stage.rows("Mixed Case").get(0).get("Größe")));
            stage.act(() -> Engine.execute(
                            stage.dataSource(), "UPDATE 'Mixed Case' SET 'order' = 7".replace("'", quote)))
                    .expect()
                    .changed("Mixed Case", row("order", 7))
                    .nothingElse();
            stage.rewind(point);
            stage.expect("select").empty();
        }
    }

    private static DataSource postgres(String ddl) {
        assumeTrue(Engine.all().anyMatch(e -> e == Engine.POSTGRES), "no PostgreSQL server is named");
        return Engine.POSTGRES.fresh(ddl);
    }

    private static DataSource mariaDb(String ddl) {
        assumeTrue(Engine.all().anyMatch(e -> e == Engine.MARIADB), "no MariaDB server is named");
        return Engine.MARIADB.fresh(ddl);
    }

    private static String type(Schema schema, String table, String column) {
        DataType type = schema.require(table).requireColumn(column).type();
        return type.kind() + " " + type.length() + " " + type.precision() + " " + type.scale();
    }

    @Test
    void postgresKeysReferencesAndChecks() {
        Schema schema = Jdbc.schema(postgres("""
                CREATE TYPE mood AS ENUM ('good', 'bad');
                CREATE DOMAIN short AS varchar(9) NOT NULL CHECK (VALUE <> '');
                CREATE SCHEMA other;
                CREATE TABLE other.region (id int PRIMARY KEY);
                CREATE TABLE hut (
                    id bigserial PRIMARY KEY, code short, mood mood, moods mood[], sizes int[], price numeric(8, 2),
                    any_number numeric, at timestamptz(3), made time(0), region_id int REFERENCES other.region DEFERRABLE INITIALLY DEFERRED,
                    deleted_at timestamp, next bigint GENERATED ALWAYS AS IDENTITY, doubled numeric GENERATED ALWAYS AS (price * 2) STORED,
                    UNIQUE (code, mood));
                CREATE UNIQUE INDEX hut_alive ON hut (code) WHERE deleted_at IS NULL;
                CREATE UNIQUE INDEX hut_lower ON hut (lower(code));
                CREATE TABLE pair (a bigint, b short, mood mood, FOREIGN KEY (b, mood) REFERENCES hut (code, mood) MATCH FULL
                    ON UPDATE CASCADE ON DELETE SET DEFAULT);
                CREATE VIEW view_of_huts AS SELECT * FROM hut;
                CREATE FUNCTION nothing() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN RETURN NEW; END $$;
                CREATE TRIGGER watcher BEFORE INSERT ON pair FOR EACH ROW EXECUTE FUNCTION nothing();
                """));
        assertEquals(List.of("hut", "pair", "other.region"), schema.tableNames());
        Table hut = schema.require("hut");
        assertEquals("TEXT 9 -1 0", type(schema, "hut", "code"));
        assertEquals("DECIMAL -1 8 2", type(schema, "hut", "price"));
        assertEquals("DECIMAL -1 -1 2", type(schema, "hut", "any_number"));
        assertEquals("INSTANT -1 3 0", type(schema, "hut", "at"));
        assertEquals("TIME -1 0 0", type(schema, "hut", "made"));
        assertEquals(List.of("good", "bad"), hut.requireColumn("mood").type().labels());
        assertEquals(
                List.of("good", "bad"),
                hut.requireColumn("moods").type().element().orElseThrow().labels());
        assertEquals(
                Kind.INTEGER,
                hut.requireColumn("sizes").type().element().orElseThrow().kind());
        assertEquals(false, hut.requireColumn("code").nullable());
        assertTrue(hut.checks().stream().anyMatch(c -> c.text().contains("\"code\"")), () -> hut.checks()
                .toString());
        assertEquals(
                List.of(Generation.SEQUENCE, Generation.IDENTITY_ALWAYS, Generation.COMPUTED),
                hut.columns().stream()
                        .map(Column::generation)
                        .filter(g -> g != Generation.NONE)
                        .toList());
        assertEquals(Optional.of("public.hut_id_seq"), hut.requireColumn("id").sequence());
        assertEquals(
                "[hut_code_mood_key [code, mood] [] , hut_alive [code] [] (deleted_at IS NULL), hut_lower [] [lower((code)::text)] ]",
                hut.uniques().stream()
                        .map(u -> u.name() + " " + u.columns() + " " + u.expressions() + " "
                                + u.condition().orElse(""))
                        .toList()
                        .toString());
        assertEquals(Reference.Deferral.INITIALLY, hut.references().get(0).deferral());
        Reference pair = schema.require("pair").references().get(0);
        assertEquals(Reference.Match.FULL, pair.match());
        assertEquals(Reference.Action.CASCADE, pair.onUpdate());
        assertEquals(Reference.Action.SET_DEFAULT, pair.onDelete());
        assertEquals(List.of("watcher"), schema.require("pair").nature().triggers());
    }

    @Test
    void postgresPartsAreToldAsTheWhole() {
        try (Stage stage = Jdbc.stage(postgres("""
                CREATE TABLE stay (id bigint GENERATED BY DEFAULT AS IDENTITY, hut int NOT NULL, note text, PRIMARY KEY (id, hut))
                    PARTITION BY RANGE (hut);
                CREATE TABLE stay_low (note text, hut int NOT NULL, id bigint NOT NULL);
                ALTER TABLE stay ATTACH PARTITION stay_low FOR VALUES FROM (0) TO (100);
                CREATE TABLE stay_high PARTITION OF stay FOR VALUES FROM (100) TO (100000);
                CREATE TABLE place (id int PRIMARY KEY, name text);
                CREATE TABLE hut (beds int) INHERITS (place);
                """))) {
            Schema schema = stage.schema();
            assertEquals(
                    "[hut HEIR place, place TABLE , stay PARTITIONED , stay_high PART stay, stay_low PART stay]",
                    schema.tables().stream()
                            .map(t -> t.name() + " " + t.nature().form() + " "
                                    + t.nature().parent().orElse(""))
                            .collect(Collectors.toList())
                            .toString());
            stage.add(2, Factory.forTable("stay").inTurn("hut", 5, 500).with("note", "old"));
            RewindPoint point = stage.mark();
            stage.act(() -> Engine.execute(
                            stage.dataSource(),
                            "UPDATE stay SET hut = 900 WHERE hut = 5",
                            "DELETE FROM stay_high WHERE hut = 500",
                            "INSERT INTO hut VALUES (1, 'Edelgrat', 9)"))
                    .expect()
                    .added("stay", row("id", 1).with("hut", 900))
                    .removed("stay", row("id", 1).with("hut", 5), row("id", 2).with("note", "old"))
                    .added("hut", row("beds", 9))
                    .nothingElse();
            stage.rewind(point);
            stage.expect("stay")
                    .holdsOnly(
                            row("id", 1).with("hut", 5).with("note", "old"),
                            row("id", 2).with("hut", 500).with("note", "old"));
            stage.expect("hut").empty();
        }
    }

    @Test
    void postgresUsersWithoutRightsFallBackToComparing() {
        DataSource owner = postgres("CREATE TABLE hut (id bigint PRIMARY KEY, beds int);");
        Engine.execute(
                owner,
                "DO $$ BEGIN CREATE ROLE zabbet_plain LOGIN PASSWORD 'plain'; EXCEPTION WHEN duplicate_object THEN NULL; END $$",
                "GRANT SELECT, INSERT, UPDATE, DELETE ON hut TO zabbet_plain",
                "GRANT USAGE ON SCHEMA zabbet TO zabbet_plain",
                "GRANT SELECT ON zabbet.dedicated TO zabbet_plain");
        DataSource plain = Jdbc.dataSource(
                owner.toString().replaceFirst("\\?.*", "") + "?user=zabbet_plain&password=plain", "", "");
        try (Stage stage = Jdbc.stage(plain)) {
            stage.add(2, Factory.forTable("hut").with("beds", 4));
            stage.act(() -> Engine.execute(
                            plain, "UPDATE hut SET beds = 7 WHERE id = 2", "DELETE FROM hut WHERE id = 1"))
                    .expect()
                    .changed("hut", 2, row("beds", 7))
                    .removed("hut", 1)
                    .nothingElse();
        }
    }

    @Test
    void mariaDbTypesKeysAndChecks() {
        Schema schema = Jdbc.schema(mariaDb("""
                CREATE TABLE hut (id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY, kind ENUM('a', 'it''s') NOT NULL DEFAULT 'a',
                    flags SET('p', 'q'), tags JSON, price DECIMAL(8, 2) UNSIGNED, at DATETIME(3), since YEAR, bits BIT(5), flag BIT(1),
                    uid UUID, address INET6, body MEDIUMTEXT, raw VARBINARY(12), doubled DECIMAL(9, 2) AS (price * 2) VIRTUAL,
                    CONSTRAINT price_range CHECK (price < 900));
                CREATE TABLE stay (hut_id INT UNSIGNED NOT NULL, nr INT NOT NULL, note CHAR(5), UNIQUE KEY both_of (hut_id, nr),
                    CONSTRAINT stay_hut FOREIGN KEY (hut_id) REFERENCES hut (id) ON DELETE CASCADE ON UPDATE CASCADE);
                CREATE VIEW view_of_huts AS SELECT id FROM hut;
                """));
        assertEquals(List.of("hut", "stay"), schema.tableNames());
        Table hut = schema.require("hut");
        assertEquals(true, hut.requireColumn("id").type().unsigned());
        assertEquals(List.of("a", "it's"), hut.requireColumn("kind").type().labels());
        assertEquals(Kind.JSON, hut.requireColumn("tags").type().kind());
        assertEquals("TIMESTAMP -1 3 0", type(schema, "hut", "at"));
        assertEquals(Kind.BOOLEAN, hut.requireColumn("flag").type().kind());
        assertEquals(Kind.UUID, hut.requireColumn("uid").type().kind());
        assertEquals("BYTES 12 -1 0", type(schema, "hut", "raw"));
        assertTrue(hut.requireColumn("doubled").isComputed());
        assertEquals(
                List.of("price_range"), hut.checks().stream().map(c -> c.name()).toList());
        assertEquals(
                new UniqueKey("both_of", List.of("hut_id", "nr")),
                schema.require("stay").uniques().get(0));
        assertEquals(
                Reference.Action.CASCADE,
                schema.require("stay").references().get(0).onUpdate());
    }

    @Test
    void sqliteReadsWhatOnlyTheDdlSays() {
        Schema schema = Jdbc.schema(Engine.SQLITE.fresh("""
                CREATE TABLE hut (id INTEGER PRIMARY KEY, code VARCHAR(9) NOT NULL CHECK (code <> 'a)b'), deleted DATE,
                    size NUMERIC(8, 2) CONSTRAINT sane CHECK (size > 0 AND (size < 9 OR size IS NULL)),
                    doubled GENERATED ALWAYS AS (size * 2) VIRTUAL, UNIQUE (code, size));
                CREATE UNIQUE INDEX alive ON hut (code) WHERE deleted IS NULL;
                CREATE UNIQUE INDEX lowered ON hut (lower(code));
                CREATE TABLE stay (hut_id INTEGER REFERENCES hut DEFERRABLE INITIALLY DEFERRED, nr INT, PRIMARY KEY (nr, hut_id)) WITHOUT ROWID;
                CREATE TABLE plain (a, b BLOB);
                """));
        Table hut = schema.require("hut");
        assertEquals(Generation.IDENTITY, hut.requireColumn("id").generation());
        assertEquals(
                List.of("code <> 'a)b'", "size > 0 AND (size < 9 OR size IS NULL)"),
                hut.checks().stream().map(c -> c.text()).toList());
        assertTrue(hut.requireColumn("doubled").isComputed());
        assertEquals(
                List.of(Optional.of("deleted IS NULL"), Optional.empty(), Optional.empty()),
                hut.uniques().stream()
                        .sorted((a, b) -> {
                            if (a.name().isEmpty()) {
                                return 1;
                            }
                            if (b.name().isEmpty()) {
                                return -1;
                            }
                            return a.name().compareTo(b.name());
                        })
                        .map(UniqueKey::condition)
                        .toList());
        Table stay = schema.require("stay");
        assertEquals(List.of("nr", "hut_id"), stay.keyColumns());
        assertEquals(List.of("id"), stay.references().get(0).targetColumns());
        assertEquals(Reference.Deferral.INITIALLY, stay.references().get(0).deferral());
        assertEquals(Form.TABLE, stay.nature().form());
        assertEquals(
                Kind.OTHER, schema.require("plain").requireColumn("a").type().kind());
    }

    @Test
    void h2DomainsSchemasAndArrays() {
        DataSource database = Engine.H2.fresh("""
                CREATE SCHEMA other;
                CREATE TABLE other.region (id INT PRIMARY KEY, "Mixed" INT);
                CREATE TABLE hut (id INT PRIMARY KEY, sizes VARCHAR(9) ARRAY, region_id INT REFERENCES other.region,
                    length INTERVAL DAY TO SECOND, at TIMESTAMP(9) WITH TIME ZONE, raw BINARY VARYING(7), name VARCHAR_IGNORECASE(9));
                CREATE UNIQUE INDEX by_name ON hut (name);
                """);
        Schema schema = Jdbc.schema(database);
        assertEquals(List.of("hut", "other.region"), schema.tableNames());
        Table hut = schema.require("hut");
        assertEquals(
                "TEXT",
                hut.requireColumn("sizes").type().element().orElseThrow().kind().name());
        assertEquals("INSTANT -1 9 0", type(schema, "hut", "at"));
        assertEquals("BYTES 7 -1 0", type(schema, "hut", "raw"));
        assertEquals("other.region", hut.references().get(0).target());
        assertEquals(List.of(new UniqueKey("by_name", List.of("name"))), hut.uniques());
        try (Stage stage = Jdbc.stage(database)) {
            Row region = stage.add("other.region");
            stage.add(Factory.forTable("hut").ref("region_id", region));
            stage.expect("hut").holdsOnly(row("region_id", region.get("id")));
        }
    }
}
