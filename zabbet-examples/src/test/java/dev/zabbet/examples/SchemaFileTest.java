package dev.zabbet.examples;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.files.SchemaFile;
import dev.zabbet.jdbc.Jdbc;
import dev.zabbet.schema.Difference;
import dev.zabbet.schema.Schema;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** A schema saved from a database serves a stage in memory, and tells what has changed in the database since. */
class SchemaFileTest {
    @Test
    void aSchemaReadsBackEqualAndServesWithoutTheDatabase(@TempDir Path folder) {
        Path file = folder.resolve("huts.json");
        Schema schema;
        try (Stage stage = Jdbc.embedded("/db/huts.sql")) {
            schema = stage.schema();
            SchemaFile.write(schema, file);
        }
        Schema read = SchemaFile.read(file);
        assertEquals(schema, read);
        assertEquals(List.of(), schema.differencesFrom(read));
        Stage memory = Memory.stage(read);
        memory.add(3, "stay");
        memory.expect("room").count(3);
    }

    @Test
    void whatDiffersIsNamed() {
        String ddl = "CREATE TABLE hut (id INT PRIMARY KEY, beds INT CHECK (beds > 3), name VARCHAR(20) UNIQUE);";
        try (Stage one = Jdbc.embeddedSql(ddl + "CREATE TABLE old (id INT);");
                Stage two = Jdbc.embeddedSql(ddl.replace("beds > 3", "beds > 4")
                        .replace("VARCHAR(20) UNIQUE", "VARCHAR(30) NOT NULL, hut_id INT REFERENCES hut"))) {
            assertEquals(
                    List.of(
                            "hut.name: CHARACTER VARYING(20) here, CHARACTER VARYING(30) NOT NULL there",
                            "hut.hut_id: nothing here, INTEGER there",
                            "hut, unique: (name) here, nothing there",
                            "hut, reference: nothing here, hut_id → hut (id) on delete REFUSE, on update REFUSE, SIMPLE,"
                                    + " deferral NEVER there",
                            "table old: old with 1 columns here, nothing there"),
                    one.schema().differencesFrom(two.schema()).stream()
                            .map(Difference::toString)
                            .filter(d -> !d.contains("check"))
                            .toList());
            assertTrue(one.schema().differencesFrom(two.schema()).stream()
                    .anyMatch(d -> d.place().equals("hut, check") && d.there().contains("\"BEDS\" > 4")));
        }
    }

    @Test
    void aFileThatIsNoSchemaSaysWhere(@TempDir Path folder) throws IOException {
        Path file = folder.resolve("x.json");
        fails(file, "{\n  \"zabbetSchema\": 1,,\n}", file + ", line 2, column 21: Unexpected character (','");
        fails(file, "{}", file + " is no schema file: it has no \"zabbetSchema\": 1.");
        fails(
                file,
                "{\"zabbetSchema\": 1, \"tables\": [{\"name\": \"hut\", \"sqlSchema\": \"\", \"sqlName\": \"hut\"}]}",
                file + ", table hut: \"columns\" is missing or no list.");
    }

    private static void fails(Path file, String json, String message) throws IOException {
        Files.writeString(file, json);
        ZabbetException refusal = assertThrows(ZabbetException.class, () -> SchemaFile.read(file));
        assertTrue(refusal.getMessage().startsWith(message), refusal::getMessage);
    }
}
