package dev.zabbet.jdbc;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertArrayEquals;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Footprint;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.row.Row;
import dev.zabbet.store.RewindPoint;
import java.util.List;
import javax.sql.DataSource;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** Scripts as applications have them, names as nobody expects them, and keys that a database fills up. */
class ScriptsTest {
    private static final String TABLES = """
            -- a hut; its name is kept in "log_line", too
            CREATE TABLE hut (id ${id}, name VARCHAR(40) NOT NULL, note VARCHAR(40) DEFAULT 'it''s; fine'); /* no; end */
            CREATE TABLE log_line (said VARCHAR(90) NOT NULL);
            """;

    /** A trigger whose body has statements of its own, as each database writes it. */
    private static String trigger(Engine engine) {
        return switch (engine) {
            case H2 -> "";
            case SQLITE -> """
                    CREATE TRIGGER told AFTER INSERT ON hut BEGIN
                        INSERT INTO log_line VALUES ('begin; ' || CASE WHEN NEW.name = 'end' THEN 'END;' ELSE NEW.name END);
                        INSERT INTO log_line VALUES ('END');
                    END;
                    """;
            case POSTGRES -> """
                    CREATE FUNCTION told() RETURNS trigger LANGUAGE plpgsql AS $body$
                    BEGIN
                        INSERT INTO log_line VALUES ('begin; ' || NEW.name); /* $$ */
                        INSERT INTO log_line VALUES (E'EN\\'D;' || $q$;$q$);
                        RETURN NEW;
                    END $body$;
                    CREATE TRIGGER told AFTER INSERT ON hut FOR EACH ROW EXECUTE FUNCTION told();
                    DO $$ BEGIN PERFORM 1; END $$;
                    """;
            case MARIADB -> """
                    # a comment; of this database
                    CREATE TRIGGER told AFTER INSERT ON hut FOR EACH ROW BEGIN
                        IF NEW.name = 'x' THEN SET @a = 1; ELSE SET @a = 2; END IF;
                        CASE NEW.name WHEN 'x' THEN SET @b = 'it\\'s;'; ELSE SET @b = 2; END CASE;
                        INSERT INTO log_line VALUES (CONCAT('begin; ', NEW.name));
                    END;
                    DELIMITER //
                    CREATE PROCEDURE twice() BEGIN
                        INSERT INTO log_line VALUES ('END');
                        SELECT 1;
                    END//
                    /*!50003 CREATE TRIGGER told_again AFTER INSERT ON hut FOR EACH ROW FOLLOWS told BEGIN
                        INSERT INTO log_line VALUES ('END'); END */ //
                    DELIMITER ;
                    """;
        };
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void bodiesOfTriggersAreOneStatement(Engine engine) {
        String ddl = (TABLES + trigger(engine) + "INSERT INTO log_line VALUES ('last; of all');")
                .replace("${id}", engine.id);
        try (Stage stage = Jdbc.stageSql(engine.empty(), ddl)) {
            stage.expect("log_line").holdsOnly(row("said", "last; of all"));
            Row hut = stage.add("hut");
            assertEquals("it's; fine", hut.get("note"));
            if (engine != Engine.H2) {
                stage.expect("log_line")
                        .where("said", "begin; " + hut.get("name"))
                        .count(1);
                stage.expect("log_line").count(3);
            }
        }
        String wrong = TABLES.replace("${id}", engine.id) + "\n\nCREATE TABLE hut (id INT);";
        String told = assertThrows(ZabbetException.class, () -> Jdbc.stageSql(engine.empty(), wrong))
                .getMessage();
        assertTrue(told.startsWith("SQL, line 6: statement 3 of 3 failed.\n  CREATE TABLE hut (id INT)\n"), told);
    }

    /** Names with a line break, quotes and the like: of tables, columns, keys, references. */
    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void namesMayHoldAnything(Engine engine) {
        for (String odd :
                List.of("a\nb", "a\rb", "a\tb", "a\"b", "a`b", "a'b", "a b", "a;b", "a\\b", "a.b", "ä\u0001")) {
            String name = engine == Engine.MARIADB
                    ? "`" + odd.replace("`", "``") + "`"
                    : "\"" + odd.replace("\"", "\"\"") + "\"";
            DataSource database = engine.empty();
            Jdbc.dedicate(database);
            Engine.execute(
                    database,
                    "CREATE TABLE " + name + " (id " + engine.id + ", " + name + " INT NOT NULL UNIQUE, c INT)",
                    "CREATE TABLE child (id " + engine.id + ", " + name + " BIGINT NOT NULL, FOREIGN KEY (" + name
                            + ") REFERENCES " + name + " (id))");
            try (Stage stage = Jdbc.stage(database)) {
                RewindPoint start = stage.mark();
                stage.add(2, "child");
                Footprint footprint = stage.act(() -> Engine.execute(database, "UPDATE " + name + " SET c = 7"));
                footprint
                        .expect()
                        .changed(odd, 1, row("c", 7))
                        .changed(odd, 2, row("c", 7))
                        .nothingElse();
                stage.rewind(start);
                stage.expect(odd).empty();
                assertEquals(1, stage.schema().require(odd).uniques().size(), odd);
                assertEquals(1, stage.schema().require("child").references().size(), odd);
            }
        }
    }

    /** What a BINARY(n) is given shorter, it keeps with zeros behind it: the row handed back must be found by it. */
    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void keysOfFixedBytesAreFoundAgain(Engine engine) {
        String bytes = engine == Engine.POSTGRES ? "BYTEA" : "BINARY(20)";
        String ddl = "CREATE TABLE hut (id " + bytes + " NOT NULL PRIMARY KEY, name VARCHAR(40) NOT NULL);"
                + "CREATE TABLE stay (id ${id}, hut_id " + bytes + " NOT NULL REFERENCES hut (id), seal "
                + bytes.replace("20", "4") + ");";
        try (Stage stage = Jdbc.stage(engine.fresh(ddl))) {
            List<Row> huts = stage.add(3, "hut");
            for (Row hut : huts) {
                stage.expect("hut").one(hut.get("id"));
            }
            stage.expect("hut").holdsOnly(huts);
            byte[] shorter = {7, 8};
            Row stay = stage.add(
                    Factory.forTable("stay").ref("hut_id", huts.get(1)).with("seal", shorter));
            stage.expect("stay").holdsOnly(stay);
        }
        if (engine == Engine.H2 || engine == Engine.MARIADB) {
            try (Stage stage = Jdbc.stage(engine.fresh(ddl))) {
                Row stay = stage.add(Factory.forTable("stay").with("seal", new byte[] {7, 8}));
                assertArrayEquals(new byte[] {7, 8, 0, 0}, stay.get("seal", byte[].class));
                stage.expect("stay").where("seal", new byte[] {7, 8}).count(1);
                stage.act(() -> Engine.execute(stage.dataSource(), "DELETE FROM stay"))
                        .expect()
                        .removed("stay", row("seal", new byte[] {7, 8}))
                        .nothingElse();
            }
        }
    }

    @Test
    void aDatabaseInMemoryStaysWithItsStage() {
        DataSource database = Jdbc.dataSource("jdbc:h2:mem:zabbet_scripts_test", "", "");
        try (Stage stage = Jdbc.stageSql(database, TABLES.replace("${id}", Engine.H2.id))) {
            RewindPoint start = stage.mark();
            stage.add("hut");
            stage.rewind(start);
            stage.expect("hut").empty();
        }
        org.h2.jdbcx.JdbcDataSource theirs = new org.h2.jdbcx.JdbcDataSource();
        theirs.setURL("jdbc:h2:mem:zabbet_scripts_test_theirs");
        try (Stage stage = Jdbc.stageSql(theirs, TABLES.replace("${id}", Engine.H2.id))) {
            stage.add("hut");
            stage.expect("hut").count(1);
        }
        DataSource empty = Jdbc.dataSource("jdbc:h2:mem:zabbet_scripts_test_empty", "", "");
        try (Stage stage = Jdbc.stage(empty)) {
            stage.mark();
            stage.act(() -> {}).expect().unchanged();
        }
        assertEquals(
                "'jdbc:h2:mem:' gives each connection an empty database of its own, so that nothing stored by one is seen by"
                        + " another. Give it a name: jdbc:h2:mem:huts",
                assertThrows(ZabbetException.class, () -> Jdbc.dataSource("jdbc:h2:mem:", "", ""))
                        .getMessage());
    }
}
