package dev.zabbet.cli;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Bulk;
import dev.zabbet.factory.Factory;
import dev.zabbet.files.RowDocument;
import dev.zabbet.jdbc.Jdbc;
import dev.zabbet.row.Row;
import dev.zabbet.store.Load;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** Stores valid rows with nothing configured. */
@Command(
        name = "add",
        mixinStandardHelpOptions = true,
        sortOptions = false,
        description = {
            "Stores valid rows, with the parents that they need: rows of tables named before, where there are, else new ones."
                    + " All or none are stored.",
            "",
            "Example: zabbet add hut=3 stay=200 --db jdbc:postgresql://localhost/huts_test",
            ""
        })
final class AddCommand implements Runnable {
    private static final String PATIENCE = "zabbet.leaseSeconds";

    @Mixin
    private final DatabaseOptions database = new DatabaseOptions();

    @Mixin
    private final OutputOptions output = new OutputOptions();

    @Parameters(
            arity = "1..*",
            paramLabel = "TABLE=N",
            description = "How many rows of which table, one after another.")
    private List<String> wanted = new ArrayList<>();

    @Option(
            names = "--variation",
            paramLabel = "V",
            description = "The number that all invented values follow from; another gives other rows. Without it, 0.")
    private @Nullable Long variation;

    @Option(names = "--filled", description = "Fills optional columns too.")
    private boolean filled;

    @Option(
            names = "--defaults",
            paramLabel = "FILE",
            description = "A row document whose defaults the rows of its tables have: defaults: {stay: {nights: 2}}.")
    private @Nullable Path defaults;

    @Option(
            names = "--part",
            paramLabel = "I/N",
            description =
                    "Stores only the I-th of N parts. Run all N, in any order and from any machine: together they store"
                            + " exactly the rows that one run would.")
    private @Nullable String part;

    @Option(
            names = "--out",
            paramLabel = "FILE",
            description = "Stores nothing; writes the rows to a file as SQL for this kind of database.")
    private @Nullable Path out;

    @Option(names = "--dry-run", description = "Stores nothing; says how many rows of which table it would be.")
    private boolean dryRun;

    @Spec
    @SuppressWarnings("NullAway.Init") // set by picocli before run()
    private CommandSpec spec;

    @Override
    public void run() {
        Map<String, Integer> named = counts();
        try (Stage opened = open()) {
            Stage stage = opened.inVariation(variation == null ? 0 : variation);
            Map<String, Integer> counts = new LinkedHashMap<>();
            named.forEach(
                    (table, count) -> counts.put(stage.schema().require(table).name(), count));
            Bulk bulk = bulk(counts, factories(stage));
            print(stored(stage, bulk), counts);
        }
    }

    private Map<String, Integer> stored(Stage stage, Bulk bulk) {
        Path file = out;
        if (dryRun) {
            return stage.validate(bulk);
        }
        if (file != null) {
            Load rows = stage.planned(bulk);
            OutFile.write(file, stage, rows);
            return rows.counts();
        }
        try (LoadProgress work = LoadProgress.on(spec.commandLine().getErr())) {
            return stage.add(bulk, work);
        }
    }

    private Stage open() {
        if (dryRun) {
            return Memory.stage(Jdbc.schema(database.dataSource()));
        }
        if (out != null) {
            return Jdbc.reading(database.dataSource());
        }
        if (part != null && System.getProperty(PATIENCE) == null) {
            System.setProperty(PATIENCE, "3600"); // parts take turns
        }
        return Jdbc.stage(database.dataSource());
    }

    /** Returns what the defaults say, by the tables' own names. */
    private Map<String, Factory<Row>> factories(Stage stage) {
        Map<String, Factory<Row>> factories = new LinkedHashMap<>();
        Path file = defaults;
        if (file != null) {
            RowDocument.read(file.toString())
                    .factories()
                    .forEach((table, factory) ->
                            factories.put(stage.schema().require(table).name(), factory));
            if (factories.isEmpty()) {
                throw new ZabbetException(file + " has no defaults: they are written defaults: {stay: {nights: 2}}.");
            }
        }
        return factories;
    }

    private Bulk bulk(Map<String, Integer> counts, Map<String, Factory<Row>> factories) {
        Set<String> idle = new TreeSet<>(factories.keySet());
        idle.removeAll(counts.keySet());
        if (!idle.isEmpty()) {
            throw new ZabbetException("The defaults speak of " + String.join(", ", idle)
                    + ", of which no rows are added by name. Add some, or leave them out of the defaults.");
        }
        Bulk bulk = null;
        for (Map.Entry<String, Integer> one : counts.entrySet()) {
            Factory<Row> rows = factories.getOrDefault(one.getKey(), Factory.forTable(one.getKey()));
            bulk = bulk == null ? Bulk.of(one.getValue(), rows) : bulk.and(one.getValue(), rows);
        }
        Bulk all = filled ? Objects.requireNonNull(bulk).filled() : Objects.requireNonNull(bulk);
        String one = part;
        if (one == null) {
            return all;
        }
        if (!one.matches("[1-9]\\d{0,5}/[1-9]\\d{0,5}")) {
            throw new ZabbetException(
                    "A part is written I/N, such as 2/4 for the second of four; '" + one + "' is not.");
        }
        int slash = one.indexOf('/');
        try {
            return all.part(Integer.parseInt(one.substring(0, slash)), Integer.parseInt(one.substring(slash + 1)));
        } catch (IllegalArgumentException e) { // no such part, or a number that is too large
            throw new ZabbetException(String.valueOf(e.getMessage()), e);
        }
    }

    private Map<String, Integer> counts() {
        Map<String, Integer> counts = new LinkedHashMap<>();
        for (String one : wanted) {
            int equals = one.lastIndexOf('=');
            String number = one.substring(equals + 1);
            if (equals < 1 || !number.matches("[1-9]\\d{0,8}")) {
                throw new ZabbetException("What to add is written TABLE=N, such as stay=200; '" + one
                        + "' is not. N is a" + " whole number from 1.");
            }
            if (counts.put(one.substring(0, equals), Integer.parseInt(number)) != null) {
                throw new ZabbetException("Table " + one.substring(0, equals) + " is named twice.");
            }
        }
        return counts;
    }

    private void print(Map<String, Integer> added, Map<String, Integer> counts) {
        Terminal paper = new Terminal(spec.commandLine().getOut());
        if (output.isJson()) {
            paper.line(OutputOptions.json(Map.of(OutputOptions.outcome(dryRun, out != null), added)));
            return;
        }
        paper.heading(OutputOptions.heading(dryRun, out));
        List<List<String>> grid = new ArrayList<>();
        grid.add(List.of("table", "rows", ""));
        added.forEach((table, rows) -> {
            int asked = counts.getOrDefault(table, 0);
            String told;
            if (asked == 0) {
                told = "came along";
            } else if (part != null) {
                told = "of " + asked;
            } else if (rows == asked) {
                told = "";
            } else {
                told = rows - asked + " of them came along";
            }
            grid.add(List.of(table, String.valueOf(rows), told));
        });
        paper.grid("  ", grid, false, true);
    }
}
