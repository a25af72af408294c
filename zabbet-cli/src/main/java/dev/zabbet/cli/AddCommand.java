package dev.zabbet.cli;

import dev.zabbet.Footprint;
import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.jdbc.Jdbc;
import dev.zabbet.schema.Table;
import dev.zabbet.store.RewindPoint;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
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
            "Stores valid rows, with the parents that they need. All or none are stored.",
            "",
            "Example: zabbet add hut=3 stay=200 --db jdbc:postgresql://localhost/huts_test",
            ""
        })
final class AddCommand implements Runnable {
    @Mixin
    private final DatabaseOptions database = new DatabaseOptions();

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

    @Option(names = "--dry-run", description = "Stores nothing; says how many rows of which table it would be.")
    private boolean dryRun;

    @Spec
    @SuppressWarnings("NullAway.Init") // set by picocli before run()
    private CommandSpec spec;

    @Override
    public void run() {
        Map<String, Integer> counts = counts();
        try (Stage opened =
                dryRun ? Memory.stage(Jdbc.schema(database.dataSource())) : Jdbc.stage(database.dataSource())) {
            Stage stage = opened.inVariation(variation == null ? 0 : variation);
            counts.keySet().forEach(table -> stage.schema().require(table));
            RewindPoint before = stage.mark();
            try {
                print(stage.act(() -> counts.forEach((table, count) -> {
                    Factory<?> factory = Factory.forTable(table);
                    stage.addMany(count, filled ? factory.filled() : factory);
                })));
            } catch (RuntimeException e) {
                stage.rewind(before); // what was stored of tables before the one that failed
                throw e;
            }
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

    private void print(Footprint footprint) {
        Paper paper = new Paper(spec.commandLine().getOut());
        paper.heading(dryRun ? "Would be stored; nothing was" : "Stored");
        List<List<String>> grid = new ArrayList<>();
        grid.add(List.of("table", "rows"));
        Map<Table, Integer> added = new LinkedHashMap<>();
        footprint.changes().forEach(change -> added.merge(change.table(), 1, Integer::sum));
        added.forEach((table, rows) -> grid.add(List.of(table.name(), String.valueOf(rows))));
        paper.grid("  ", grid, false, true);
    }
}
