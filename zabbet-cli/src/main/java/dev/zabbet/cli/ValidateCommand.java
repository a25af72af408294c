package dev.zabbet.cli;

import dev.zabbet.Stage;
import dev.zabbet.jdbc.Jdbc;
import dev.zabbet.seed.Seed;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** Tells whether row documents are valid for a schema. */
@Command(
        name = "validate",
        mixinStandardHelpOptions = true,
        sortOptions = false,
        description = {
            "Tells whether row documents are valid for this database, and stores nothing: names, types, references,"
                    + " constraints. Everything that is wrong is reported at once, with file, line and column. The database is only read.",
            "",
            "Example: zabbet validate --db jdbc:postgresql://localhost/huts_test seeds/huts.yaml",
            ""
        })
final class ValidateCommand implements Runnable {
    @Mixin
    private final DatabaseOptions database = new DatabaseOptions();

    @Mixin
    private final OutputOptions output = new OutputOptions();

    @Parameters(arity = "1..*", paramLabel = "FILE", description = "Files or folders.")
    private List<String> files = new ArrayList<>();

    @Spec
    @SuppressWarnings("NullAway.Init") // set by picocli before run()
    private CommandSpec spec;

    @Override
    public void run() {
        Seed seed = Documents.seed(files);
        Documents.expectations(files);
        try (Stage stage = Jdbc.reading(database.dataSource())) {
            Map<String, Integer> counts = stage.validate(seed);
            Terminal paper = new Terminal(spec.commandLine().getOut());
            if (output.isJson()) {
                paper.line(OutputOptions.json(Map.of("valid", true, "wouldBeStored", counts)));
                return;
            }
            LoadCommand.print(paper, "Valid. It would be stored; nothing was", seed, counts);
        }
    }
}
