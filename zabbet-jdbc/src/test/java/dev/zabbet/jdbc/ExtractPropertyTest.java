package dev.zabbet.jdbc;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Stage;
import dev.zabbet.extract.Extract;
import dev.zabbet.extract.ExtractSummary;
import dev.zabbet.extract.Masking;
import dev.zabbet.extract.SeedTarget;
import dev.zabbet.factory.Factory;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.TableNature;
import dev.zabbet.seed.Seed;
import dev.zabbet.seed.SeedRow;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Collectors;
import javax.sql.DataSource;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/**
 * Of random tables random rows are taken: an empty copy of the database takes them without a refusal, all references lead to rows,
 * what is neither a key nor masked is as it was, and an extract of what was loaded is the same seed again.
 */
class ExtractPropertyTest {
    private static final int RUNS = Integer.getInteger("zabbet.runs", 4);
    private static final long FIRST = Long.getLong("zabbet.firstVariation", 1);
    private static final Masking MASKING = Masking.withSecret("a secret of the tests");

    @ParameterizedTest
    @MethodSource("dev.zabbet.jdbc.Engine#all")
    void anEmptyCopyTakesAnyExtract(Engine engine) {
        List<String> failures = new ArrayList<>();
        for (long variation = FIRST; variation < FIRST + RUNS; variation++) {
            String ddl = new RandomSchema(engine, new Random(variation)).ddl();
            try {
                run(engine, ddl, new Random(variation));
            } catch (AssertionError | RuntimeException e) {
                failures.add("variation " + variation + ": " + e + "\n" + ddl);
                if (Boolean.getBoolean("zabbet.trace")) {
                    e.printStackTrace();
                }
            }
        }
        assertTrue(
                failures.isEmpty(),
                () -> engine + ": " + failures.size() + " of " + RUNS + "\n" + String.join("\n", failures));
        System.out.println("extracts on " + engine + ": variations " + FIRST + " to " + (FIRST + RUNS - 1));
    }

    private static void run(Engine engine, String ddl, Random random) {
        DataSource from = engine.fresh(ddl);
        Map<String, List<Row>> stored = new TreeMap<>();
        Extract extract;
        try (Stage stage = Jdbc.stage(from)) {
            for (String table : stage.schema().tableNames()) {
                if (!RandomSchema.hasLittleRoom(table)) {
                    stage.add(8, Factory.forTable(table));
                    stage.add(3, Factory.forTable(table).filled());
                }
            }
            stage.schema().tableNames().forEach(table -> stored.put(table, stage.rows(table)));
            extract = extract(stage, random);
        }
        SeedTarget target = new SeedTarget();
        ExtractSummary summary = Extracts.take(from, extract, MASKING, target);
        Set<String> masked = summary.columns().stream()
                .filter(column -> column.isMasked() || !column.path().isEmpty())
                .map(column -> column.table() + "." + column.column())
                .collect(Collectors.toSet());

        DataSource copy = engine.fresh(ddl);
        try (Stage stage = Jdbc.stage(copy)) {
            Map<String, Integer> counts = stage.load(target.seed()).counts();
            assertEquals(new TreeMap<>(summary.tables()), new TreeMap<>(counts), "rows loaded");
            for (Table table : stage.schema().tables()) {
                requireParents(stage, table);
                if (table.nature().form()
                        == TableNature.Form.TABLE) { // kin have the same rows, masked as their own are
                    List<Row> before = stored.getOrDefault(table.name(), List.of());
                    requireSame(table, before, stage.rows(table.name()), masked, extract);
                }
            }
        }
        if (extract.without().isEmpty()) {
            Extract all = null;
            for (String table : summary.tables().keySet()) {
                all = all == null ? Extract.all(table) : all.andAll(table);
            }
            SeedTarget again = new SeedTarget();
            Extracts.take(copy, all, Masking.unmasked(Engine.databaseName(copy)), again);
            assertEquals(text(target.seed()), text(again.seed()), "an extract of what was loaded");
        }
    }

    private static Extract extract(Stage stage, Random random) {
        List<Table> tables = stage.schema().tables().stream()
                .filter(table -> !stage.rows(table.name()).isEmpty())
                .toList();
        Extract extract = null;
        for (int i = 0; i < 1 + random.nextInt(2); i++) {
            String table = tables.get(random.nextInt(tables.size())).name();
            int rows = 1 + random.nextInt(6);
            extract = extract == null ? Extract.rows(table, rows) : extract.andRows(table, rows);
        }
        switch (random.nextInt(4)) {
            case 0 -> extract = extract.below("*");
            case 1 -> extract = extract.below("*", 2).depth(1 + random.nextInt(3));
            case 2 -> {
                List<Table> referring =
                        tables.stream().filter(t -> !t.references().isEmpty()).toList();
                if (!referring.isEmpty()) {
                    extract = extract.below(
                            referring.get(random.nextInt(referring.size())).name(), 1 + random.nextInt(3));
                }
            }
            default -> {}
        }
        Table some = tables.get(random.nextInt(tables.size()));
        List<Column> optional = some.columns().stream()
                .filter(c -> c.nullable() && !c.isComputed())
                .filter(c -> some.referencesOf(c.name()).isEmpty())
                .filter(c -> some.uniques().stream().noneMatch(u -> u.columns().contains(c.name())))
                .toList();
        return random.nextInt(3) > 0 || optional.isEmpty()
                ? extract
                : extract.without(some.name() + "." + optional.get(0).name());
    }

    private static void requireParents(Stage stage, Table table) {
        for (Reference reference : table.references()) {
            Set<String> keys = new HashSet<>();
            stage.rows(reference.target()).forEach(row -> keys.add(told(row, reference.targetColumns())));
            for (Row row : stage.rows(table.name())) {
                boolean none = reference.columns().stream().anyMatch(c -> row.get(c) == null);
                assertTrue(none || keys.contains(told(row, reference.columns())), reference.describe());
            }
        }
    }

    /** Rows that were loaded are rows that were stored, in the columns that are neither numbered, nor refer, nor are masked. */
    private static void requireSame(
            Table table, List<Row> stored, List<Row> loaded, Set<String> masked, Extract extract) {
        List<String> same = table.columns().stream()
                .filter(c -> !c.isNumbered() && !c.isComputed() && !extract.leavesOut(table.name(), c.name()))
                .filter(c -> table.referencesOf(c.name()).isEmpty() && !masked.contains(table.name() + "." + c.name()))
                .map(Column::name)
                .toList();
        List<String> before = stored.stream().map(row -> told(row, same)).collect(Collectors.toList());
        for (Row row : loaded) {
            assertTrue(
                    before.remove(told(row, same)),
                    () -> table.name() + " never held " + same + " " + told(row, same) + ", it held " + before
                            + " masked " + masked);
        }
    }

    private static String told(Row row, List<String> columns) {
        return columns.stream()
                .map(c -> dev.zabbet.internal.value.Text.of(row.get(c)))
                .collect(Collectors.joining("|"));
    }

    private static String text(Seed seed) {
        return seed.rows().stream().map(ExtractPropertyTest::text).collect(Collectors.joining("\n"));
    }

    private static String text(SeedRow row) {
        return row.table() + " " + row.label() + " "
                + told(row.values(), row.values().columns());
    }
}
