package dev.zabbet.jdbc;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.factory.Factory;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Table;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import java.util.stream.Collectors;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/**
 * On random tables that need values, keys and parents in many ways, rows are stored with nothing said about them: no
 * database refuses one, every reference leads to a row, and the same call gives the same rows again.
 */
class FactoryPropertyTest {
    private static final int RUNS = Integer.getInteger("zabbet.runs", 15);
    private static final long FIRST = Long.getLong("zabbet.firstVariation", 1);

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void anyTableIsFilledWithNothingSaid(Engine engine) {
        for (long variation = FIRST; variation < FIRST + RUNS; variation++) {
            String ddl = ddl(engine, new Random(variation));
            try {
                fill(engine, ddl);
            } catch (AssertionError | RuntimeException e) {
                throw new AssertionError(engine + ", variation " + variation + ": " + e.getMessage() + "\n" + ddl, e);
            }
        }
        System.out.println("factories on " + engine + ": variations " + FIRST + " to " + (FIRST + RUNS - 1));
    }

    private static void fill(Engine engine, String ddl) {
        List<String> first = new ArrayList<>();
        List<String> again = new ArrayList<>();
        for (List<String> told : List.of(first, again)) {
            try (Stage stage = Jdbc.stage(engine.fresh(ddl))) {
                for (String table : stage.schema().tableNames()) {
                    stage.add(table);
                    stage.add(20, Factory.forTable(table));
                }
                requireParents(stage);
                stage.schema().tableNames().forEach(t -> told.add(t + stage.rows(t)));
                if (told == again) {
                    inMemory(stage, told);
                }
            }
        }
        assertEquals(first, again, "the same calls on another database");
    }

    /** A stage in memory over the same tables takes the same rows, and enforces the same references. */
    private static void inMemory(Stage stage, List<String> told) {
        Stage memory = Memory.stage(stage.schema());
        for (String table : stage.schema().tableNames()) {
            memory.add(table);
            memory.add(20, Factory.forTable(table));
        }
        requireParents(memory);
        assertEquals(
                told.stream().map(t -> t.length() > 0).toList(),
                memory.schema().tableNames().stream()
                        .map(t -> memory.rows(t).size() == stage.rows(t).size())
                        .toList());
    }

    private static void requireParents(Stage stage) {
        for (Table table : stage.schema().tables()) {
            List<Row> rows = stage.rows(table.name());
            assertTrue(rows.size() >= 21, table.name());
            for (Reference reference : table.references()) {
                List<List<Object>> keys = stage.rows(reference.target()).stream()
                        .map(r -> reference.targetColumns().stream().map(r::get).toList())
                        .collect(Collectors.toList());
                for (Row row : rows) {
                    List<Object> key = new ArrayList<>();
                    reference.columns().forEach(c -> key.add(row.get(c)));
                    assertTrue(key.contains(null) || keys.contains(key), () -> reference.describe() + " of " + row);
                }
            }
            for (Column column : table.columns()) {
                assertTrue(
                        column.nullable() || rows.stream().noneMatch(r -> r.get(column.name()) == null), column.name());
            }
        }
    }

    private static String ddl(Engine engine, Random random) {
        StringBuilder ddl = new StringBuilder();
        int count = 5 + random.nextInt(8);
        List<String> keys = new ArrayList<>();
        for (int i = 0; i < count; i++) {
            ddl.append("CREATE TABLE t").append(i).append(" (");
            List<String> parts = new ArrayList<>();
            List<String> ends = new ArrayList<>();
            keys.add(key(engine, i, keys, random, parts, ends));
            for (int c = random.nextInt(5); c >= 0; c--) {
                parts.add(column("c" + c, random, ends));
            }
            for (int r = random.nextInt(3); r > 0 && i > 0; r--) {
                int to = random.nextInt(i);
                if (!keys.get(to).equals("pair")) {
                    String name = "r" + r;
                    String keyType = keys.get(to);
                    parts.add(name + " " + keyType + (random.nextInt(3) == 0 ? "" : " NOT NULL"));
                    ends.add("FOREIGN KEY (" + name + ") REFERENCES t" + to + " (id)");
                    if (random.nextInt(4) == 0) {
                        ends.add("UNIQUE (" + name + ")");
                    }
                }
            }
            parts.addAll(ends);
            ddl.append(String.join(", ", parts)).append(");\n");
        }
        return ddl.toString();
    }

    /** Adds a key of some kind; returns the type that a column has which refers to it, or "pair". */
    private static String key(
            Engine engine, int table, List<String> keys, Random random, List<String> parts, List<String> ends) {
        switch (random.nextInt(6)) {
            case 0:
                parts.add("id VARCHAR(12) NOT NULL PRIMARY KEY");
                return "VARCHAR(12)";
            case 1:
                parts.add("id INT NOT NULL PRIMARY KEY");
                return "INT";
            case 2:
                List<Integer> single = new ArrayList<>();
                for (int i = 0; i < table; i++) {
                    if (!keys.get(i).equals("pair")) {
                        single.add(i);
                    }
                }
                if (!single.isEmpty()) {
                    int to = single.get(random.nextInt(single.size()));
                    parts.add("a " + keys.get(to) + " NOT NULL");
                    parts.add("nr INT NOT NULL");
                    ends.add("PRIMARY KEY (a, nr)");
                    ends.add("FOREIGN KEY (a) REFERENCES t" + to + " (id)");
                    return "pair";
                }
                parts.add("id ${id}");
                return "BIGINT";
            default:
                parts.add("id ${id}");
                return "BIGINT";
        }
    }

    private static String column(String name, Random random, List<String> ends) {
        String required = random.nextInt(3) == 0 ? "" : " NOT NULL";
        switch (random.nextInt(9)) {
            case 0:
                ends.add("CHECK (" + name + " BETWEEN 4 AND 9)");
                return name + " INT" + required;
            case 1:
                ends.add("CHECK (" + name + " IN ('RED', 'BLUE'))");
                return name + " VARCHAR(5)" + required;
            case 2:
                ends.add("UNIQUE (" + name + ")");
                return name + " VARCHAR(" + (3 + random.nextInt(30)) + ")" + required;
            case 3:
                ends.add("CHECK (" + name + " > 0 AND " + name + " <= 10.5)");
                return name + " DECIMAL(6, 2)" + required;
            case 4:
                return name + " DATE" + required;
            case 5:
                return name + " INT DEFAULT 7" + required;
            case 6:
                return name + "_at TIMESTAMP" + (required.isEmpty() ? " NULL" : required);
            case 7:
                ends.add("UNIQUE (" + name + ")");
                return name + " INT" + required;
            default:
                return name + "_name VARCHAR(60)" + required;
        }
    }
}
