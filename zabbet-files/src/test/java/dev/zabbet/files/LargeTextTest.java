package dev.zabbet.files;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertFalse;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTimeoutPreemptively;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.schema.Schema;
import dev.zabbet.seed.Seed;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Texts of any kind are read in time that grows with their size, and what no text holds is refused with its place. */
class LargeTextTest {
    private static final int SIZE = Integer.getInteger("zabbet.largeText", 6 << 20);

    /** What grew with the square of the size would take hours. */
    private static final Duration LONG = Duration.ofSeconds(60);

    record Hut(long id, String name, @Nullable Integer beds) {}

    private static Map<String, String> texts() {
        Map<String, String> texts = new LinkedHashMap<>();
        String word = "lorem ipsum dolor ";
        String prose = word.repeat(SIZE / word.length());
        texts.put("plain.yaml", "tables:\n  hut:\n    - {name: " + prose + "}\n");
        texts.put("quoted.yaml", "tables:\n  hut:\n    - {name: \"" + prose + "\"}\n");
        texts.put("single.yaml", "tables:\n  hut:\n    - {name: '" + prose + "'}\n");
        texts.put(
                "folded.yaml",
                "tables:\n  hut:\n    - name: >\n        " + prose.replace("dolor ", "dolor\n        ") + "\n");
        texts.put("escapes.json", "{\"tables\": {\"hut\": [{\"name\": \"" + "\\u00e4\\n".repeat(SIZE / 8) + "\"}]}}");
        texts.put("comment.yaml", "tables:\n  # " + prose + "\n  hut: [{name: x}]\n");
        texts.put("comments.yaml", "# a\n".repeat(SIZE / 4) + "tables: {hut: [{name: x}]}\n");
        texts.put("key.yaml", "tables:\n  hut:\n    - {\"" + "k".repeat(900) + "\": 1, ? \"" + prose + "\" : 2}\n");
        texts.put("blanks.yaml", "tables:" + " ".repeat(SIZE) + "{hut: [{name: x}]}\n");
        texts.put("lines.yaml", "\n".repeat(SIZE) + "tables: {hut: [{name: x}]}\n");
        texts.put("digits.json", "{\"tables\": {\"hut\": [{\"beds\": " + "9".repeat(SIZE) + "}]}}");
        String names =
                IntStream.range(0, 100_000).mapToObj(i -> "n" + i + ": 1").collect(Collectors.joining(", "));
        texts.put("names.yaml", "tables: {hut: [{" + names + "}]}\n");
        texts.put("rows.yaml", "tables: {hut: [" + "{name: x, beds: 1}, ".repeat(SIZE / 60) + "{}]}\n");
        texts.put("tables.yaml", "tables: {" + names.replace(": 1", ": []") + "}\n");
        texts.put("words.yaml", "expect: {hut: {" + names + "}}\n");
        texts.put("deep.json", "{\"tables\": " + "[".repeat(SIZE) + "]".repeat(SIZE) + "}");
        texts.put("text.json", prose);
        texts.put(
                "columns.csv",
                IntStream.range(0, 100_000).mapToObj(i -> "n" + i).collect(Collectors.joining(",")) + "\n"
                        + "1,".repeat(99_999) + "1\n");
        texts.put("hut.csv", "name\n\"" + prose + "\"\n");
        texts.put("ragged.csv", "name\n" + ",".repeat(SIZE) + "\n");
        return texts;
    }

    @Test
    void timeGrowsWithSize(@TempDir Path folder) throws Exception {
        Stage stage = Memory.stage(Schema.of(Hut.class));
        for (Map.Entry<String, String> text : texts().entrySet()) {
            Path file = Files.writeString(folder.resolve(text.getKey()), text.getValue());
            String refusal = assertTimeoutPreemptively(LONG, () -> tried(stage, file), text.getKey());
            assertTrue(refusal.length() < 200_000, () -> text.getKey() + ": " + refusal.length() + " characters");
            assertFalse(refusal.contains("snakeyaml") || refusal.contains("Exception"), refusal);
        }
    }

    /** Returns what is said; nothing if all is well. */
    private static String tried(Stage stage, Path file) {
        try {
            if (file.toString().endsWith("words.yaml")) {
                stage.expect(RowDocument.read(file.toString()));
            } else {
                stage.validate(Seed.read(file.toString()));
            }
            return "";
        } catch (ZabbetException e) {
            return String.valueOf(e.getMessage());
        }
    }

    @Test
    void whatNoTextHoldsIsRefusedWithItsPlace(@TempDir Path folder) throws Exception {
        Stage stage = Memory.stage(Schema.of(Hut.class));
        Map<String, String> told = new LinkedHashMap<>();
        told.put(
                "tables:\n  hut: [{name: a\0b}]",
                "line 2, column 17: the character U+0000 cannot stand in a text file. In YAML"
                        + " and JSON it is written \"\\u0000\", in double quotes.");
        told.put("tables:\r\n  hut: [{name: \"\u001b[2J\"}]", "line 2, column 17: the character U+001B cannot stand");
        told.put("# \u0007\n", "line 1, column 3: the character U+0007 cannot stand");
        told.put("tables: {hut: [{name: 🏔\ud800}]}", "line 1, column 24: the character U+D800 cannot stand");
        for (Map.Entry<String, String> text : told.entrySet()) {
            String refusal = assertThrows(ZabbetException.class, () -> RowDocument.of("huts.yaml", text.getKey()))
                    .getMessage();
            assertTrue(refusal.startsWith("huts.yaml, " + text.getValue()), refusal);
        }
        Path csv = Files.writeString(folder.resolve("hut.csv"), "name\nEdel\0grat\n");
        String refusal = tried(stage, csv);
        assertTrue(refusal.startsWith(csv + ", line 2, column 5: the character U+0000 cannot stand"), refusal);
        stage.load(RowDocument.of("huts.yaml", "tables: {hut: [{name: \"a\\u0007b\"}]}")
                .seed());
        assertEquals("a\u0007b", stage.rows("hut").get(0).get("name"));
    }
}
