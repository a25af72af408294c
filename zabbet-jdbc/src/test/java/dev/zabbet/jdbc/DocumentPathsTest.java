package dev.zabbet.jdbc;

import static dev.zabbet.expect.Expected.above;
import static dev.zabbet.expect.Expected.between;
import static dev.zabbet.expect.Expected.jsonPart;
import static dev.zabbet.expect.Expected.like;
import static dev.zabbet.expect.Expected.near;
import static dev.zabbet.expect.Expected.notNull;
import static dev.zabbet.expect.Expected.oneOf;
import static dev.zabbet.expect.Expected.pattern;
import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import dev.zabbet.Footprint;
import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.expect.FootprintExpectation;
import dev.zabbet.expect.TableExpectation;
import dev.zabbet.factory.Factory;
import dev.zabbet.internal.document.DocumentEdit;
import dev.zabbet.internal.document.DocumentPath;
import dev.zabbet.row.Matcher;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Change;
import dev.zabbet.store.Condition;
import dev.zabbet.store.RewindPoint;
import java.math.BigDecimal;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.TreeMap;
import java.util.function.Consumer;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** Places in documents, named as columns are: in expectations on tables and footprints, and where rows are looked for. */
class DocumentPathsTest {
    private static final int RUNS = Integer.getInteger("zabbet.runs", 12);
    private static final long FIRST = Long.getLong("zabbet.firstVariation", 1);
    private static final Path GOLDEN = Path.of("src/test/resources/document-paths.txt");
    private static final List<String> DOCUMENTS = List.of(
            "{\"status\":\"CONFIRMED\",\"nights\":2,\"price\":80.5,\"paid\":true,\"note\":null,\"booked\":\"2031-06-30T10:00:00Z\","
                    + "\"arrives\":\"2031-07-02\",\"guest\":{\"name\":\"Ada Ferrun\",\"country\":\"CH\",\"tags\":[\"early\",\"quiet\"]},"
                    + "\"guests\":[{\"name\":\"Bea\"},{\"name\":\"Cai\",\"age\":7}],\"odd.name\":{\"a \\\"b\\\"\":1}}",
            "{ \"guest\": {\"country\": \"IT\", \"name\": \"Dino Ravel\"}, \"nights\": 5.0, \"status\": \"CANCELLED\" }",
            "{\"status\":\"2\",\"nights\":\"2\",\"paid\":\"true\",\"guest\":\"Enna\",\"guests\":{\"0\":{\"name\":\"Bea\"}}}",
            "[1,[2,3],{\"status\":\"LISTED\"}]");

    private static final List<String> NAMES = List.of("a", "b.c", "d[0]", "e\"f", "ö", "", "0", "*");
    private static final List<String> TEXTS = List.of("", "a", "ä \"b\"", "null", "2031-07-02", "x\ny");

    private record Guest(String name, String country, List<String> tags) {}

    record Booking(@Nullable Long id, String code, JsonNode doc) {}

    interface Bookings {
        Booking save(Booking booking);
    }

    private static Stream<String> homes() {
        return Stream.concat(Stream.of("MEMORY"), Engine.all().map(Engine::name));
    }

    private static Stage open(String home) {
        Engine engine = home.equals("MEMORY") ? Engine.H2 : Engine.valueOf(home);
        String ddl = "CREATE TABLE booking (id ${id}, code VARCHAR(20), doc ${json})"
                .replace("${json}", engine == Engine.POSTGRES ? "JSONB" : "JSON");
        return home.equals("MEMORY") ? Memory.stage(Jdbc.schema(engine.fresh(ddl))) : Jdbc.stage(engine.fresh(ddl));
    }

    /** Each in words, as what it is called by in the file of what comes back. */
    private static Map<String, Consumer<Stage>> expectations(Footprint footprint) {
        Map<String, Consumer<Stage>> all = new LinkedHashMap<>();
        Instant booked = Instant.parse("2031-06-30T10:00:01Z");
        holding(all, "doc.status", "CONFIRMED", "CANCELED", null, notNull(), oneOf("X", "LISTED"), like("CAN%"));
        holding(all, "doc.nights", 2, 2.0, 5, "2", 3, between(3, 9), above(5), oneOf(1, 5));
        holding(all, "doc.price", 80.5, new BigDecimal("80.50"), 80, near(80, 1), near(70, 1));
        holding(all, "doc.paid", true, false, "true", notNull());
        holding(all, "doc.note", null, notNull(), "");
        holding(all, "doc.arrives", LocalDate.of(2031, 7, 2), LocalDate.of(2031, 7, 3), "2031-07-02");
        holding(all, "doc.booked", near(booked, Duration.ofSeconds(2)), near(booked, Duration.ofMillis(10)));
        holding(
                all,
                "doc.guest",
                new Guest("Ada Ferrun", "CH", List.of("early", "quiet")),
                "Enna",
                Map.of("name", "Ada"));
        holding(all, "doc.guest.name", "Dino Ravel", pattern("A.*n"), pattern("B.*"));
        holding(all, "doc.guest.tags", List.of("early", "quiet"), List.of("quiet", "early"), jsonPart("[\"quiet\"]"));
        holding(all, "doc.guest.tags[1]", "quiet", "early");
        holding(all, "doc.guests[1].age", 7, 8);
        holding(all, "doc.guests[2]", null, notNull());
        holding(all, "doc[\"odd.name\"][\"a \\\"b\\\"\"]", 1, 2);
        holding(all, "doc[1][0]", 2, 3);
        all.put("two places of one row", s -> s.expect("booking")
                .holds(row("doc.status", "CANCELLED")
                        .with("doc.guest.country", "IT")
                        .with("code", "b1")));
        all.put("two places of two rows", s -> s.expect("booking")
                .holds(row("doc.status", "CANCELLED")
                        .with("doc.guest.country", "CH")
                        .with("code", "b1")));
        all.put("only", s -> s.expect("booking")
                .where("doc.guest.country", oneOf("CH", "IT"))
                .holdsOnly(row("doc.status", "CONFIRMED"), row("doc.status", "CANCELLED")));
        all.put("only, and one beyond", s -> s.expect("booking")
                .where("doc.nights", notNull())
                .holdsOnly(row("doc.nights", 2), row("doc.nights", 5)));
        all.put("none of", s -> s.expect("booking").holdsNoneOf(row("doc.guest.country", "IT")));
        all.put("a whole document", s -> s.expect("booking")
                .holds(row("code", "b1")
                        .with(
                                "doc",
                                Map.of("status", "DONE", "nights", 5, "guest", Map.of("name", "Dino"), "new", 1))));
        all.put("a map", s -> s.expect("booking")
                .where("doc.paid", true)
                .holdsOnly(Map.of("code", "b0", "doc.guest.name", "Ada Ferrun")));
        all.put(
                "where, with a count",
                s -> s.expect("booking").where("doc.nights", 2).count(1));
        String older = DOCUMENTS.get(0).replace("\"age\":7", "\"age\":8").replace("Ada Ferrun", "Ada Ilber");
        all.put("only a place of a document", s -> s.expect("booking")
                .select("doc.status", "code")
                .holds(row("code", "b0").with("doc", older)));
        all.put("all but places of a document", s -> s.expect("booking")
                .ignoring("doc.guests[*].age", "doc.guest")
                .holds(row("code", "b0").with("doc", older)));
        all.put("all but other places", s -> s.expect("booking")
                .ignoring("doc.guests[1]", "doc.*.country")
                .holds(row("code", "b0").with("doc", older)));
        all.put(
                "all but what was named",
                s -> s.expect("booking").ignoring("doc.guest.*").holds(row("doc.guest.name", "Ada")));
        all.put("in the order of a place", s -> s.expect("booking")
                .orderedBy("-doc.guest.name")
                .first(2)
                .holdsInOrder(row("doc.guest.name", "Dino Ravel"), row("doc.guest.name", "Ada Ilber")));
        all.put(
                "several places selected",
                s -> s.expect("booking").select("doc.*").holds(row("code", "b0")));
        all.put("a path with several places", s -> s.expect("booking").holds(row("doc.guests[*].name", "Bea")));
        all.put("a column without documents", s -> s.expect("booking").holds(row("code.x", 1)));
        all.put("no path", s -> s.expect("booking").holds(row("doc.guests[x]", 1)));
        all.put("no such column", s -> s.expect("booking").holds(row("dok.status", "x")));
        all.put("changed to", s -> footprint.expect().changed("booking", 1, row("doc.status", "CANCELLED")));
        all.put("changed to something else", s -> footprint
                .expect()
                .changed("booking", 1, row("doc.status", "DONE").with("doc.guests[0].name", "Bea")));
        all.put("changed in more than was said", s -> footprint
                .expect()
                .changed("booking", 1, row("doc.status", "CANCELLED").with("doc.guest.name", "Ada Ferrun"))
                .nothingElse());
        all.put("nothing else by path", s -> footprint
                .expect()
                .changed(
                        "booking",
                        1,
                        row("doc.status", "CANCELLED")
                                .with("doc.guests[2].name", "Flor")
                                .with("doc.note", null)
                                .with("doc.guest.tags", List.of("quiet"))
                                .with("doc.price", null))
                .ignoring("booking.doc.guests[*].age")
                .nothingElse());
        all.put(
                "nothing else by column",
                s -> footprint.expect().ignoring("*.doc").nothingElse());
        all.put("nothing at all", s -> footprint.expect().unchanged());
        return all;
    }

    private static void holding(Map<String, Consumer<Stage>> all, String path, @Nullable Object... values) {
        for (Object value : values) {
            String name = path + " = " + (value instanceof Matcher m ? m.describe() : value)
                    + (value instanceof String ? " (text)" : "");
            assertTrue(
                    all.put(name, s -> {
                                s.expect("booking")
                                        .where(path, value)
                                        .count(s.rows("booking").stream()
                                                .filter(r -> matches(s, path, value, r))
                                                .count());
                                s.expect("booking").holds(row(path, value));
                            })
                            == null,
                    name);
        }
    }

    /** What is found by a condition is what an expectation of that row alone holds for. */
    private static boolean matches(Stage stage, String path, @Nullable Object value, Row row) {
        try {
            stage.expect("booking").where("id", row.get("id")).holds(row(path, value));
            return true;
        } catch (AssertionError e) {
            return false;
        }
    }

    @ParameterizedTest
    @MethodSource("homes")
    void theyHoldAndFailAlikeEverywhere(String home) throws Exception {
        try (Stage stage = open(home)) {
            for (int i = 0; i < DOCUMENTS.size(); i++) {
                stage.add(Factory.forTable("booking").with("code", "b" + i).with("doc", DOCUMENTS.get(i)));
            }
            String changed = DOCUMENTS
                    .get(0)
                    .replace("CONFIRMED", "CANCELLED")
                    .replace("\"price\":80.5,", "")
                    .replace("\"early\",", "")
                    .replace("\"age\":7}", "\"age\":8},{\"age\":3,\"name\":\"Flor\"}");
            Row before = stage.expect("booking").where("code", "b0").one();
            Footprint footprint = stage.act(() -> update(stage, home, before, changed));
            update(stage, home, before, DOCUMENTS.get(0));
            StringBuilder outcomes = new StringBuilder();
            Map<String, Consumer<Stage>> all = expectations(footprint);
            assertTrue(all.size() >= 60, "there are " + all.size());
            all.forEach((name, expectation) ->
                    outcomes.append("# ").append(name).append('\n').append(outcome(stage, expectation)));
            if (Boolean.getBoolean("zabbet.write") && home.equals("MEMORY")) {
                Files.writeString(GOLDEN, outcomes.toString());
            }
            Files.writeString(Path.of("/tmp/dp-" + home), outcomes.toString());
            assertEquals(Files.readString(GOLDEN), outcomes.toString());
        }
    }

    /** As an application does it: by its repository, or by SQL. */
    private static void update(Stage stage, String home, Row booking, String document) throws Exception {
        long id = booking.get("id", Long.class);
        if (home.equals("MEMORY")) {
            stage.fake(Bookings.class)
                    .save(new Booking(id, booking.get("code", String.class), new ObjectMapper().readTree(document)));
            return;
        }
        String parameter = Map.of("H2", "? FORMAT JSON", "POSTGRES", "?::jsonb").getOrDefault(home, "?");
        try (Connection connection = stage.dataSource().getConnection();
                PreparedStatement statement =
                        connection.prepareStatement("UPDATE booking SET doc = " + parameter + " WHERE id = ?")) {
            statement.setString(1, document);
            statement.setLong(2, id);
            assertEquals(1, statement.executeUpdate());
        }
    }

    private static String outcome(Stage stage, Consumer<Stage> expectation) {
        try {
            expectation.accept(stage);
            return "holds\n\n";
        } catch (AssertionError | ZabbetException e) {
            return e.getMessage().strip().replaceAll("the column is [^,]*,", "the column is text,") + "\n\n";
        }
    }

    /** SQLite takes any text for a column of JSON, if no check says otherwise. */
    @Test
    void whatIsNoDocumentHoldsNothing() {
        try (Stage stage = open("SQLITE")) {
            Engine.execute(stage.dataSource(), "INSERT INTO booking (code, doc) VALUES ('b0', 'no {json')");
            stage.expect("booking").where("doc.a", 1).count(0);
            stage.expect("booking").where("doc.a", null).holdsOnly(row("doc.a.b", null));
            assertEquals(
                    """
                    booking: 1 of 1 expected row is stored with other values.

                      booking 1   stored        expected
                        doc.a     (not there)   1
                        doc       no {json      {"a":1}

                    1 row looked at, 0 as expected.

                    Variation 0.
                    """,
                    outcome(stage, s -> s.expect("booking")
                                            .holds(row("doc.a", 1)
                                                    .with("doc", Map.of("a", 1))
                                                    .with("code", "b0")))
                                    .stripTrailing()
                            + "\n");
        }
    }

    /** Random edits: what a footprint tells, done to the document before, gives the one after; and each place has to be expected. */
    @ParameterizedTest
    @MethodSource("homes")
    void aFootprintTellsEachPlaceThatChanged(String home) throws Exception {
        try (Stage stage = open(home)) {
            ObjectMapper mapper = new ObjectMapper();
            RewindPoint start = stage.mark();
            for (long variation = FIRST; variation < FIRST + RUNS * 4L; variation++) {
                Random random = new Random(variation * 53);
                Object first = document(random, 0);
                Object second = random.nextInt(6) == 0 ? document(random, 0) : edited(first, random);
                stage.add(Factory.forTable("booking").with("code", "r").with("doc", mapper.writeValueAsString(first)));
                Row stored = stage.expect("booking").one();
                isFoundByEachPlace(stage, stored.document("doc"), variation);
                String text = random.nextBoolean()
                        ? mapper.writeValueAsString(second)
                        : mapper.writerWithDefaultPrettyPrinter().writeValueAsString(second);
                Footprint footprint = stage.act(() -> update(stage, home, stored, text));
                try {
                    assertEquals(
                            written(first).equals(written(second)),
                            footprint.changes().isEmpty());
                    check(footprint, second);
                } catch (AssertionError | RuntimeException e) {
                    throw new AssertionError(home + ", variation " + variation + ": " + first + " → " + second, e);
                }
                stage.rewind(start);
            }
            System.out.println(home + ": variations " + FIRST + " to " + (FIRST + RUNS * 4 - 1));
        }
    }

    private static void isFoundByEachPlace(Stage stage, @Nullable Object document, long variation) {
        for (DocumentEdit leaf :
                new DocumentEdit(DocumentPath.WHOLE, DocumentEdit.Kind.ADDED, null, document).leaves()) {
            if (leaf.path().isWhole()) {
                continue; // the column itself
            }
            Object other = leaf.after() instanceof String ? 1 : "other";
            TableExpectation bookings = stage.expect("booking");
            try {
                bookings.where("doc" + leaf.path(), leaf.after()).count(1);
                bookings.where("doc" + leaf.path(), other).count(0);
                Condition is = new Condition.Inside("doc", leaf.path().toString(), leaf.after());
                Table table = stage.schema().require("booking");
                assertTrue(stage.store().rows(table, new Condition.Not(is)).isEmpty());
                assertEquals(
                        1,
                        stage.store()
                                .rows(table, new Condition.Not(new Condition.Not(is)))
                                .size());
            } catch (AssertionError e) {
                throw new AssertionError(variation + ": " + document + " by " + leaf, e);
            }
        }
    }

    private static void check(Footprint footprint, @Nullable Object after) {
        if (footprint.changes().isEmpty()) {
            return;
        }
        Change.Changed changed = (Change.Changed) footprint.changes().get(0);
        Object before = changed.before().document("doc");
        List<DocumentEdit> edits = DocumentEdit.between(before, changed.after().document("doc"));
        assertTrue(!edits.isEmpty(), "it differs in nothing");
        assertEquals(written(after), written(applied(before, edits)), edits.toString());
        Map<String, @Nullable Object> all = new LinkedHashMap<>();
        List<String> removed = new ArrayList<>();
        for (DocumentEdit edit : edits) {
            if (edit.kind() == DocumentEdit.Kind.REMOVED) {
                removed.add("booking.doc" + edit.path());
            } else {
                edit.leaves().forEach(leaf -> all.put("doc" + leaf.path(), leaf.after()));
            }
        }
        if (all.isEmpty() || all.containsKey("doc")) {
            return; // of the column itself a text is JSON, and null is SQL's
        }
        long id = changed.row().get("id", Long.class);
        FootprintExpectation expected = footprint.expect().changed("booking", id, Row.of(all));
        (removed.isEmpty() ? expected : expected.ignoring(removed.toArray(String[]::new))).nothingElse();
        String left = all.keySet().iterator().next();
        all.remove(left);
        if (!all.isEmpty() && removed.isEmpty()) {
            FootprintExpectation less = footprint.expect().changed("booking", id, Row.of(all));
            String report =
                    assertThrows(AssertionError.class, less::nothingElse).getMessage();
            assertTrue(report.contains("changed in 1 place that"), report);
            assertTrue(report.contains(": " + left + " "), report);
        }
    }

    /** Numbers are the same however they are written, and so are names in any order. */
    private static String written(@Nullable Object value) {
        if (value instanceof Map<?, ?> map) {
            Map<Object, String> all = new TreeMap<>();
            map.forEach((name, part) -> all.put(name, written(part)));
            return all.toString();
        }
        if (value instanceof List<?> list) {
            return list.stream().map(DocumentPathsTest::written).toList().toString();
        }
        return value instanceof Number number
                ? new BigDecimal(number.toString()).stripTrailingZeros().toPlainString()
                : (value instanceof String ? "text " : "") + value;
    }

    private static @Nullable Object applied(@Nullable Object document, List<DocumentEdit> edits) {
        Object changed = copy(document);
        for (int i = edits.size() - 1; i >= 0; i--) {
            changed = edits.get(i).kind() == DocumentEdit.Kind.REMOVED ? done(changed, edits.get(i)) : changed;
        }
        for (DocumentEdit edit : edits) {
            changed = edit.kind() == DocumentEdit.Kind.REMOVED ? changed : done(changed, edit);
        }
        return changed;
    }

    @SuppressWarnings("unchecked")
    private static @Nullable Object done(@Nullable Object document, DocumentEdit edit) {
        List<Object> steps = edit.path().steps();
        if (steps.isEmpty()) {
            return edit.after();
        }
        Object holder = new DocumentPath(steps.subList(0, steps.size() - 1)).in(document);
        if (holder instanceof Map<?, ?>) {
            Map<Object, @Nullable Object> map = (Map<Object, @Nullable Object>) holder;
            Object name = steps.get(steps.size() - 1);
            if (edit.kind() == DocumentEdit.Kind.REMOVED) {
                map.remove(name);
            } else {
                map.put(name, copy(edit.after()));
            }
        } else {
            List<@Nullable Object> list = (List<@Nullable Object>) holder;
            int position = (Integer) steps.get(steps.size() - 1);
            switch (edit.kind()) {
                case ADDED -> list.add(position, copy(edit.after()));
                case CHANGED -> list.set(position, copy(edit.after()));
                case REMOVED -> list.remove(position);
            }
        }
        return document;
    }

    private static @Nullable Object copy(@Nullable Object value) {
        if (value instanceof Map<?, ?> map) {
            Map<Object, @Nullable Object> copy = new LinkedHashMap<>();
            map.forEach((key, part) -> copy.put(key, copy(part)));
            return copy;
        }
        if (value instanceof List<?> list) {
            List<@Nullable Object> copy = new ArrayList<>();
            list.forEach(part -> copy.add(copy(part)));
            return copy;
        }
        return value;
    }

    private static @Nullable Object document(Random random, int depth) {
        switch (random.nextInt(depth > 3 ? 6 : 10)) {
            case 0:
                return null;
            case 1:
                return random.nextBoolean();
            case 2, 3:
                return random.nextInt(100) / (random.nextBoolean() ? 1.0 : 8.0);
            case 4, 5:
                return TEXTS.get(random.nextInt(TEXTS.size()));
            case 6, 7:
                List<@Nullable Object> list = new ArrayList<>();
                for (int i = random.nextInt(5); i > 0; i--) {
                    list.add(document(random, depth + 1));
                }
                return list;
            default:
                Map<String, @Nullable Object> map = new LinkedHashMap<>();
                for (int i = random.nextInt(5); i > 0; i--) {
                    map.put(NAMES.get(random.nextInt(NAMES.size())), document(random, depth + 1));
                }
                return map;
        }
    }

    @SuppressWarnings("unchecked")
    private static @Nullable Object edited(@Nullable Object document, Random random) {
        Object copy = copy(document);
        if (copy instanceof Map<?, ?> && random.nextInt(4) > 0) {
            Map<String, @Nullable Object> changed = (Map<String, @Nullable Object>) copy;
            List<String> names = new ArrayList<>(changed.keySet());
            String name = names.isEmpty() || random.nextInt(4) == 0
                    ? NAMES.get(random.nextInt(NAMES.size()))
                    : names.get(random.nextInt(names.size()));
            if (changed.containsKey(name) && random.nextInt(4) == 0) {
                changed.remove(name);
            } else {
                changed.put(name, edited(changed.get(name), random));
            }
            return changed;
        }
        if (copy instanceof List<?> list && !list.isEmpty() && random.nextInt(4) > 0) {
            List<@Nullable Object> changed = (List<@Nullable Object>) copy;
            int at = random.nextInt(changed.size());
            switch (random.nextInt(3)) {
                case 0 -> changed.remove(at);
                case 1 -> changed.add(at, document(random, 2));
                default -> changed.set(at, edited(changed.get(at), random));
            }
            return changed;
        }
        return document(random, 1);
    }
}
