package dev.zabbet.jdbc;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.factory.Factory;
import dev.zabbet.internal.story.Stories;
import dev.zabbet.internal.story.Story;
import dev.zabbet.internal.value.MixedVariation;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Table;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Random;
import java.util.Set;
import java.util.stream.Collectors;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/**
 * On random tables that need values, keys and parents in many ways, rows are stored with nothing said about them: no
 * database refuses one, every reference leads to a row, and the same call gives the same rows again.
 */
class FactoryPropertyTest {
    private static final int RUNS = Integer.getInteger("zabbet.runs", 2);
    private static final int ROWS = Integer.getInteger("zabbet.rows", 20);
    private static final long FIRST = Long.getLong("zabbet.firstVariation", 1);

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void anyTableIsFilledWithNothingSaid(Engine engine) {
        List<String> failures = new ArrayList<>();
        for (long variation = FIRST; variation < FIRST + RUNS; variation++) {
            String ddl = new RandomSchema(engine, new Random(variation)).ddl();
            try {
                fill(engine, ddl);
            } catch (AssertionError | RuntimeException e) {
                failures.add("variation " + variation + ": " + e.getMessage() + "\n" + ddl);
            }
        }
        assertTrue(
                failures.isEmpty(),
                () -> engine + ": " + failures.size() + " of " + RUNS + "\n" + String.join("\n", failures));
        System.out.println("factories on " + engine + ": variations " + FIRST + " to " + (FIRST + RUNS - 1));
    }

    private static void fill(Engine engine, String ddl) {
        List<String> first = new ArrayList<>();
        List<String> again = new ArrayList<>();
        for (List<String> told : List.of(first, again)) {
            try (Stage stage = Jdbc.stage(engine.fresh(ddl))) {
                store(stage);
                requireParents(stage);
                for (String table : stage.schema().tableNames()) {
                    String made = " made_id=[^,)]*"; // the database makes them, by chance
                    told.add(table
                            + stage.rows(table).stream()
                                    .map(row -> row.toString().replaceAll(made, ""))
                                    .sorted()
                                    .toList());
                }
                boolean kin = stage.schema().tables().stream()
                        .anyMatch(t -> t.nature().parent().isPresent());
                if (told == again && !kin) { // to a database what a table's kin holds is the table's too
                    inMemory(stage, told);
                }
            }
        }
        for (int i = 0; i < first.size(); i++) {
            assertEquals(first.get(i), again.get(i), "the same calls on another database");
        }
    }

    /** Where a test runs in many variations: optional columns and parents are filled or empty, and values go to edges. */
    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void edgesAreValidToo(Engine engine) {
        List<String> failures = new ArrayList<>();
        for (long variation = FIRST; variation < FIRST + 2 * RUNS; variation++) {
            String ddl = new RandomSchema(engine, new Random(variation)).ddl();
            try (Stage stage = Jdbc.stage(engine.fresh(ddl));
                    MixedVariation mixed = MixedVariation.open(variation, variation, Set.of())) {
                Story story = new Story(FactoryPropertyTest.class, false, false);
                story.mix(mixed);
                Stories.begin(story, stage.store());
                store(stage);
                requireParents(stage);
                Stories.end(story);
            } catch (AssertionError | RuntimeException e) {
                failures.add("variation " + variation + ": " + e.getMessage() + "\n" + ddl);
            }
        }
        assertTrue(
                failures.isEmpty(),
                () -> engine + ": " + failures.size() + " of " + 2 * RUNS + "\n" + String.join("\n", failures));
    }

    /** One row of each table, and many; but of tables with room for a few only what others refer to. */
    private static void store(Stage stage) {
        for (String table : stage.schema().tableNames()) {
            if (!RandomSchema.hasLittleRoom(table)) {
                stage.add(table);
                stage.add(ROWS, Factory.forTable(table));
                stage.add(1 + ROWS / 4, Factory.forTable(table).filled());
            }
        }
    }

    /** A stage in memory over the same tables takes the same rows, and enforces the same references. */
    private static void inMemory(Stage stage, List<String> told) {
        Stage memory = Memory.stage(stage.schema());
        store(memory);
        requireParents(memory);
        assertEquals(
                told.stream().map(t -> t.length() > 0).toList(),
                memory.schema().tableNames().stream()
                        .map(t -> memory.rows(t).size() == stage.rows(t).size())
                        .toList());
    }

    private static String told(List<String> columns, Row row) {
        return columns.stream().map(c -> String.valueOf(row.get(c))).collect(Collectors.joining("|"));
    }

    private static void requireParents(Stage stage) {
        for (Table table : stage.schema().tables()) {
            List<Row> rows = stage.rows(table.name());
            assertTrue(rows.size() > ROWS || RandomSchema.hasLittleRoom(table.name()), table.name());
            for (Reference reference : table.references()) {
                Set<Object> keys = new HashSet<>(); // as text: arrays of bytes and decimals would differ by their class
                stage.rows(reference.target()).forEach(r -> keys.add(told(reference.targetColumns(), r)));
                for (Row row : rows) {
                    boolean empty = reference.columns().stream().anyMatch(c -> row.get(c) == null);
                    assertTrue(
                            empty || keys.contains(told(reference.columns(), row)),
                            () -> reference.describe() + " of " + row);
                }
            }
            for (Column column : table.columns()) {
                assertTrue(
                        column.nullable() || rows.stream().noneMatch(r -> r.get(column.name()) == null), column.name());
            }
        }
    }
}
