package dev.zabbet.cli;

import dev.zabbet.Stage;
import dev.zabbet.internal.text.Words;
import dev.zabbet.jdbc.Jdbc;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
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

/** Empties a database that is dedicated to tests. */
@Command(
        name = "clear",
        mixinStandardHelpOptions = true,
        sortOptions = false,
        description = {
            "Deletes all rows of a database that is dedicated to tests, or of some of its tables. All or none are deleted;"
                    + " counters begin again.",
            "",
            "Example: zabbet clear --db jdbc:postgresql://localhost/huts_test",
            ""
        })
final class ClearCommand implements Runnable {
    @Mixin
    private final DatabaseOptions database = new DatabaseOptions();

    @Mixin
    private final OutputOptions output = new OutputOptions();

    @Parameters(arity = "0..*", paramLabel = "TABLE", description = "The tables; all without any.")
    private List<String> tables = new ArrayList<>();

    @Option(
            names = "--except",
            paramLabel = "TABLE",
            description = "A table whose rows stay (a migration's history, for example); may be given several times.")
    private List<String> except = new ArrayList<>();

    @Option(
            names = "--may-lose",
            paramLabel = "NAME",
            description =
                    "The name of the database (of a file, its last part), if it holds many rows that no stage stored"
                            + " and that may be lost.")
    private @Nullable String mayLose;

    @Option(names = "--dry-run", description = "Deletes nothing; says how many rows of which table it would be.")
    private boolean dryRun;

    @Spec
    @SuppressWarnings("NullAway.Init") // set by picocli before run()
    private CommandSpec spec;

    private static List<Table> named(List<String> names, Schema schema) {
        return names.stream().map(schema::require).toList();
    }

    @Override
    public void run() {
        Terminal paper = new Terminal(spec.commandLine().getOut());
        try (Stage stage = Jdbc.stage(database.dataSource())) {
            List<Table> meant =
                    new ArrayList<>(tables.isEmpty() ? stage.schema().tables() : named(tables, stage.schema()));
            meant.removeAll(named(except, stage.schema()));
            List<List<String>> grid = new ArrayList<>();
            grid.add(List.of("table", "rows"));
            Map<String, Long> counts = new LinkedHashMap<>();
            long rows = 0;
            for (Table table : meant) {
                long held = stage.store().count(table);
                rows += held;
                if (held > 0) {
                    counts.put(table.name(), held);
                    grid.add(List.of(table.name(), String.valueOf(held)));
                }
            }
            if (rows == 0 && !output.isJson()) {
                paper.line("There is no row to delete in " + Words.count(meant.size(), "table") + ".");
                return;
            }
            if (!dryRun) {
                Jdbc.clear(stage, meant, mayLose);
            }
            if (output.isJson()) {
                paper.line(OutputOptions.json(Map.of(dryRun ? "wouldBeDeleted" : "deleted", counts)));
                return;
            }
            paper.heading(dryRun ? "Would be deleted; nothing was" : "Deleted");
            paper.grid("  ", grid, false, true);
        }
    }
}
