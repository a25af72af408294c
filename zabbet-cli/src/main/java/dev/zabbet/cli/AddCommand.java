package dev.zabbet.cli;

import dev.zabbet.Footprint;
import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.jdbc.Jdbc;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Table;
import dev.zabbet.store.RewindPoint;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
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
                print(
                        stage.act(() -> {
                            Set<String> named = new HashSet<>();
                            counts.forEach((name, count) -> {
                                Table table = stage.schema().require(name);
                                stage.addMany(count, factory(table, named));
                                named.add(table.name());
                            });
                        }),
                        counts);
            } catch (RuntimeException e) {
                stage.rewind(before); // what was stored of tables before the one that failed
                throw e;
            }
        }
    }

    /** Tables that were named before are where parents are taken from; others come along, one for each row. */
    private Factory<?> factory(Table table, Set<String> named) {
        Factory<?> factory = Factory.forTable(table.name());
        List<Reference> references = new ArrayList<>(table.references());
        references.sort(Comparator.comparingInt(r -> -r.columns().size()));
        Set<String> covered = new HashSet<>();
        for (Reference reference : references) {
            Optional<String> own = reference.columns().stream()
                    .filter(c -> table.referencesOf(c).size() == 1)
                    .findFirst();
            if (named.contains(reference.target())
                    && own.isPresent()
                    && reference.columns().stream().noneMatch(covered::contains)) {
                factory = factory.refStored(own.get());
                covered.addAll(reference.columns());
            }
        }
        return filled ? factory.filled() : factory;
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

    private void print(Footprint footprint, Map<String, Integer> counts) {
        Paper paper = new Paper(spec.commandLine().getOut());
        Map<String, Integer> added = new LinkedHashMap<>();
        footprint.changes().forEach(change -> added.merge(change.table().name(), 1, Integer::sum));
        if (output.isJson()) {
            paper.line(OutputOptions.json(Map.of(dryRun ? "wouldBeStored" : "stored", added)));
            return;
        }
        paper.heading(dryRun ? "Would be stored; nothing was" : "Stored");
        List<List<String>> grid = new ArrayList<>();
        grid.add(List.of("table", "rows", ""));
        added.forEach((table, rows) -> {
            int along = rows - counts.getOrDefault(table, 0);
            String told = along == 0 ? "" : along == rows ? "came along" : along + " of them came along";
            grid.add(List.of(table, String.valueOf(rows), told));
        });
        paper.grid("  ", grid, false, true);
    }
}
