package dev.zabbet.seed;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ExpectationFailure;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import dev.zabbet.type.Kind;
import java.util.Iterator;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;

/** Very many plain rows, and what is at the edges of what is read and shown. */
class StreamedSeedTest {
    record Hut(long id, String name, int beds, Optional<String> note) {}

    /** Rows of text as a file has them; counts how often it is read and closed. */
    private static final class Lines implements StreamedRows {
        private final List<String> columns;
        private final List<List<@Nullable String>> lines;
        private int opened;
        private int closed;

        Lines(List<String> columns, List<List<@Nullable String>> lines) {
            this.columns = columns;
            this.lines = lines;
        }

        @Override
        public String table() {
            return "hut";
        }

        @Override
        public List<String> columns() {
            return columns;
        }

        @Override
        public SourceLocation place() {
            return new SourceLocation("huts.csv:1", String.join(",", columns));
        }

        @Override
        public Reading read() {
            opened++;
            Iterator<List<@Nullable String>> each = lines.iterator();
            return new Reading() {
                private int line = 1;

                @Override
                public @Nullable String @Nullable [] next() {
                    line++;
                    return each.hasNext() ? each.next().toArray(String[]::new) : null;
                }

                @Override
                public SourceLocation at() {
                    return new SourceLocation("huts.csv:" + line, "");
                }

                @Override
                public void close() {
                    closed++;
                }
            };
        }
    }

    private final Stage stage = Memory.stage(Schema.of(Hut.class));

    @Test
    void rowsAreStoredAsTheyStandAndWhatTheyReadIsClosed() {
        Lines lines = new Lines(
                List.of("name", "beds"),
                List.of(List.of("Edelgrat", "12"), List.of("Windegg", "4"), List.of("Larnhorn", "30")));
        stage.load(Seed.ofStreamed(lines));
        stage.expect("hut")
                .orderedBy("id")
                .holdsInOrder(
                        row("name", "Edelgrat").with("beds", 12),
                        row("name", "Windegg").with("beds", 4),
                        row("name", "Larnhorn").with("beds", 30));
        assertTrue(lines.opened > 0);
        assertEquals(lines.opened, lines.closed, "each reading was closed");
    }

    @Test
    void whatIsWrongSaysWhereAndNothingIsStored() {
        assertEquals(
                """
                The seed cannot be stored, and nothing of it was: 1 thing is wrong.
                  huts.csv:1: There is no column of table hut named 'bets'. Did you mean 'beds'? Known: id, name, beds, note.
                    | name,bets""",
                refusal(new Lines(List.of("name", "bets"), List.of(List.of("Edelgrat", "12"))))
                        .stripTrailing());
        String value = refusal(new Lines(
                List.of("name", "beds"),
                List.of(List.of("Edelgrat", "12"), List.of("Windegg", "four"), List.of("Larn", "five"))));
        assertTrue(value.contains("huts.csv:3") && value.contains("four"), value);
        stage.expect("hut").empty();
    }

    private String refusal(Lines lines) {
        return String.valueOf(assertThrows(ZabbetException.class, () -> stage.load(Seed.ofStreamed(lines)))
                .getMessage());
    }

    /** What could steer a terminal is shown as an escape, up to the last of its kind and not beyond. */
    @Test
    void reportsShowWhatCouldSteerATerminal() {
        String text = "a\u007F\u0080\u009F\u00A0\u2029\u202A\u202E\u202F\u2065\u2066\u2069\u206Az";
        Row hut = stage.add(Factory.forTable("hut").with("name", text));
        String report = assertThrows(ExpectationFailure.class, () -> stage.expect("hut")
                        .holds(row("id", hut.get("id")).with("name", "plain")))
                .getMessage();
        assertTrue(
                report.contains(
                        "a\\u007f\\u0080\\u009f\\u00a0\\u2029\\u202a\\u202e\\u202f\u2065\\u2066\\u2069\\u206az   plain"),
                report);
    }

    static class Kept<K> {
        K id;
    }

    static class Named<K, N> extends Kept<K> {
        N name;
    }

    static class Room extends Named<Long, String> {
        int beds;
    }

    static class Key extends Named<String, Integer> {}

    @Test
    void typeParametersOfSuperclassesAreFilledIn() {
        Schema schema = Schema.of(Room.class, Key.class);
        assertEquals(
                Kind.INTEGER, schema.require("room").requireColumn("id").type().kind());
        assertEquals(
                Kind.TEXT, schema.require("room").requireColumn("name").type().kind());
        assertEquals(Kind.TEXT, schema.require("key").requireColumn("id").type().kind());
        assertEquals(
                Kind.INTEGER, schema.require("key").requireColumn("name").type().kind());
        Stage rooms = Memory.stage(schema);
        Room room = rooms.add(Factory.forType(Room.class).with("name", "Attic"));
        rooms.expect(Room.class).holdsOnly(room);
    }
}
