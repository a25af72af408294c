package dev.zabbet.jdbc;

import static org.junit.jupiter.api.Assertions.assertEquals;

import dev.zabbet.Footprint;
import dev.zabbet.Stage;
import dev.zabbet.row.Row;
import dev.zabbet.store.Change;
import dev.zabbet.store.RewindPoint;
import java.sql.Connection;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Collectors;
import javax.sql.DataSource;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** Rows that a database changes by itself, since their parent was deleted or got another key, are in the footprint. */
class FollowingRowsTest {
    private static final String DDL = """
            CREATE TABLE hut (id ${id}, name VARCHAR(20) NOT NULL, nearest BIGINT,
                FOREIGN KEY (nearest) REFERENCES hut (id) ON DELETE SET NULL%s);
            CREATE TABLE room (hut_id BIGINT NOT NULL, number INT NOT NULL, PRIMARY KEY (hut_id, number),
                FOREIGN KEY (hut_id) REFERENCES hut (id) ON DELETE CASCADE ON UPDATE CASCADE);
            CREATE TABLE remark (text VARCHAR(20), hut_id BIGINT, number INT,
                FOREIGN KEY (hut_id, number) REFERENCES room (hut_id, number) ON DELETE SET NULL ON UPDATE CASCADE);
            CREATE TABLE path (leaves BIGINT, reaches BIGINT, hours INT,
                FOREIGN KEY (leaves) REFERENCES hut (id) ON DELETE SET NULL ON UPDATE CASCADE,
                FOREIGN KEY (reaches) REFERENCES hut (id) ON DELETE SET NULL ON UPDATE CASCADE);
            CREATE TABLE visit (hut_id BIGINT, guests INT,
                FOREIGN KEY (hut_id) REFERENCES hut (id) ON DELETE CASCADE ON UPDATE CASCADE);
            CREATE TABLE section (id ${id}, part_of BIGINT,
                FOREIGN KEY (part_of) REFERENCES section (id) ON DELETE CASCADE);
            CREATE TABLE sign (text VARCHAR(20), section_id BIGINT,
                FOREIGN KEY (section_id) REFERENCES section (id) ON DELETE SET NULL);
            """;

    private static final List<String> ROWS = List.of(
            "INSERT INTO hut (name, nearest) VALUES ('Valserra', 1)",
            "INSERT INTO hut (name, nearest) VALUES ('Oberalm', 1)",
            "INSERT INTO room (hut_id, number) VALUES (1, 4)",
            "INSERT INTO remark (text, hut_id, number) VALUES ('cold', 1, 4)",
            "INSERT INTO remark (text, hut_id, number) VALUES ('cold', 1, 4)",
            "INSERT INTO path (leaves, reaches, hours) VALUES (1, 1, 3)",
            "INSERT INTO path (leaves, reaches, hours) VALUES (1, 2, 4)",
            "INSERT INTO visit (hut_id, guests) VALUES (1, 5)",
            "INSERT INTO section (part_of) VALUES (1)", // a ring of three, and one below it
            "INSERT INTO section (part_of) VALUES (1)",
            "INSERT INTO section (part_of) VALUES (2)",
            "UPDATE section SET part_of = 3 WHERE id = 1",
            "INSERT INTO section (part_of) VALUES (3)",
            "INSERT INTO sign (text, section_id) VALUES ('start', 1)",
            "INSERT INTO sign (text, section_id) VALUES ('left', 4)",
            "INSERT INTO sign (text, section_id) VALUES ('left', 4)");

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void whenTheirParentIsDeleted(Engine engine) throws Exception {
        assertEquals("""
                hut * (id=2, name=Oberalm, nearest=1) (id=2, name=Oberalm, nearest=null)
                hut - (id=1, name=Valserra, nearest=1)
                path + (leaves=null, reaches=2, hours=4)
                path + (leaves=null, reaches=null, hours=3)
                path - (leaves=1, reaches=1, hours=3)
                path - (leaves=1, reaches=2, hours=4)
                remark + (text=cold, hut_id=null, number=null)
                remark + (text=cold, hut_id=null, number=null)
                remark - (text=cold, hut_id=1, number=4)
                remark - (text=cold, hut_id=1, number=4)
                room - (hut_id=1, number=4)
                visit - (hut_id=1, guests=5)""", footprint(engine, "DELETE FROM hut WHERE id = 1"));
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void whenTheirParentGetsAnotherKey(Engine engine) throws Exception {
        boolean refusesOwnRow = engine == Engine.MARIADB; // a key that a row of the same table refers to stays
        String own = refusesOwnRow ? "null" : "1";
        String moved = refusesOwnRow ? "null" : "7";
        String neighbour =
                refusesOwnRow ? "" : "hut * (id=2, name=Oberalm, nearest=1) (id=2, name=Oberalm, nearest=7)\n";
        assertEquals(
                neighbour + """
                hut + (id=7, name=Valserra, nearest=%s)
                hut - (id=1, name=Valserra, nearest=%s)
                path + (leaves=7, reaches=2, hours=4)
                path + (leaves=7, reaches=7, hours=3)
                path - (leaves=1, reaches=1, hours=3)
                path - (leaves=1, reaches=2, hours=4)
                remark + (text=cold, hut_id=7, number=4)
                remark + (text=cold, hut_id=7, number=4)
                remark - (text=cold, hut_id=1, number=4)
                remark - (text=cold, hut_id=1, number=4)
                room + (hut_id=7, number=4)
                room - (hut_id=1, number=4)
                visit + (hut_id=7, guests=5)
                visit - (hut_id=1, guests=5)""".formatted(moved, own),
                footprint(
                        engine,
                        "UPDATE hut SET id = 7 WHERE id = 1",
                        refusesOwnRow ? List.of("UPDATE hut SET nearest = NULL") : List.of()));
    }

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void whenTheyAreManyLevelsBelowAndInARing(Engine engine) throws Exception {
        assertEquals("""
                section - (id=1, part_of=3)
                section - (id=2, part_of=1)
                section - (id=3, part_of=2)
                section - (id=4, part_of=3)
                sign + (text=left, section_id=null)
                sign + (text=left, section_id=null)
                sign + (text=start, section_id=null)
                sign - (text=left, section_id=4)
                sign - (text=left, section_id=4)
                sign - (text=start, section_id=1)""", footprint(engine, "DELETE FROM section WHERE id = 2"));
    }

    private static String footprint(Engine engine, String statement) throws Exception {
        return footprint(engine, statement, List.of());
    }

    /** Returns the changes of a statement in lines: added (+), removed (-), or changed (*) from one to another. */
    private static String footprint(Engine engine, String statement, List<String> first) throws Exception {
        DataSource database = engine.fresh(DDL.formatted(engine == Engine.MARIADB ? "" : " ON UPDATE CASCADE"));
        try (Stage stage = Jdbc.stage(database);
                Connection connection = database.getConnection();
                Statement sql = connection.createStatement()) {
            List<String> all = new ArrayList<>(ROWS);
            all.addAll(first);
            for (String one : all) {
                sql.execute(one);
            }
            RewindPoint point = stage.mark();
            String before = contents(stage);
            Footprint footprint = stage.act(() -> sql.execute(statement));
            stage.rewind(point);
            assertEquals(before, contents(stage), "rewound");
            return footprint.changes().stream()
                    .map(FollowingRowsTest::line)
                    .sorted()
                    .collect(Collectors.joining("\n"));
        }
    }

    /** Returns a change in a line. */
    static String line(Change change) {
        String table = change.table().name();
        if (change instanceof Change.Changed changed) {
            return table + " * " + changed.before() + " " + changed.row();
        }
        return table + (change instanceof Change.Added ? " + " : " - ") + change.row();
    }

    /** Returns all rows, sorted. */
    static String contents(Stage stage) {
        return stage.schema().tableNames().stream()
                .map(table -> table
                        + stage.rows(table).stream().map(Row::toString).sorted().toList())
                .collect(Collectors.joining("\n"));
    }
}
