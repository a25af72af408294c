package dev.zabbet.files;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.schema.Schema;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;

class MarkdownTableTest {
    record Note(long id, @Nullable String text, int weight) {}

    private final Stage stage = Memory.stage(Schema.of(Note.class));

    @Test
    void aPlainCellIsDataAndACodeSpanIsAMatcherOrNull() {
        Factory<Note> notes = Factory.forType(Note.class);
        stage.add(2, notes.inTurn(Note::text, "null", null).inTurn(Note::weight, 7, 8));
        stage.add(notes.with(Note::text, "a|b").with(Note::weight, 9));
        stage.expect("note").holdsOnly("""
                | id                | text              | weight              |
                |-------------------|:-----------------:|--------------------:|
                | 1                 | null              | `between 5 and 7`   |
                | `any`             | `null`            | `one of 8, 9`       |
                | `not null`        | a\\|b             | 9                   |
                """);
        stage.expect("note").where("weight", 9).holds("""
                | text              |
                | `pattern a.b`     |
                """);
        stage.expect("note").holdsOnly("""
                | id            | text           | weight                |
                | `below 2` | `like nu%`     | `near 7.5 within 0.5` |
                | `from 2`  | `null`         | `other than 7`        |
                | `equal to id` | `like a%`      | `above 8`      |
                """);
    }

    @Test
    void aTableThatCannotBeReadSaysWhere() {
        fails("""
                Line 3 of the Markdown table cannot be read: it has 1 cell, and the first line names 2 columns: id, text.
                  | 1 |""", "| id | text |\n|---|---|\n| 1 |");
        fails("""
                Line 2 of the Markdown table cannot be read: `nul` is not known. Known are `null`, `not null`, `any`,\
                 `pattern …`, `between … and …`, `one of …, …`, `near … within …`, `below …`, `up to …`,\
                 `above …`, `from …`, `other than …`, `like …`, `equal to …`, `json part …`; plain data stands\
                 without backticks.
                  | `nul` |""", "| text |\n| `nul` |");
        fails("""
                Line 2 of the Markdown table cannot be read: it does not begin and end with a bar.
                  1 | x""", "| id | text |\n1 | x");
        fails("""
                Rows given as text are read as a table in Markdown; this begins with 'id=1'. Write | column | column | in\
                 the first line.""", "id=1");
        fails(
                "There is no column of table note named 'txt'. Did you mean 'text'? Known: id, text, weight.",
                "| txt |\n| x |");
        fails("""
                The expected value of note.weight can never be stored: the column is int, and 'heavy' is not a whole\
                 number.""", "| weight |\n| heavy |");
    }

    private void fails(String message, String table) {
        assertEquals(
                message,
                assertThrows(ZabbetException.class, () -> stage.expect("note").holds(table))
                        .getMessage());
    }
}
