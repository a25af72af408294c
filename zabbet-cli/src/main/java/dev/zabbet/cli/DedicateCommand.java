package dev.zabbet.cli;

import dev.zabbet.jdbc.Dedicated;
import dev.zabbet.jdbc.Jdbc;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.ParameterException;
import picocli.CommandLine.Spec;

/** Marks a database as meant for tests. */
@Command(
        name = "dedicate",
        mixinStandardHelpOptions = true,
        description = {
            "Marks a database as meant for tests, so that stages may be opened on it. All that it holds may be lost then;"
                    + " one that holds rows is marked only if you name it.",
            "",
            "Example: zabbet dedicate --db jdbc:postgresql://localhost/huts_test",
            ""
        })
final class DedicateCommand implements Runnable {
    @Mixin
    private final DatabaseOptions database = new DatabaseOptions();

    @Option(
            names = "--may-lose",
            paramLabel = "NAME",
            description = "The name of the database (of a file, its last part), if it holds rows that may be lost.")
    private @Nullable String name;

    @Option(names = "--dry-run", description = "Writes nothing; says whether the database would be marked.")
    private boolean dryRun;

    @Option(
            names = "--undo",
            description =
                    "Takes all that Zabbet keeps in the database out of it: the mark, the journal with its triggers, labels."
                            + " Rows stay.")
    private boolean undo;

    @Spec
    @SuppressWarnings("NullAway.Init") // set by picocli before run()
    private CommandSpec spec;

    @Override
    public void run() {
        Terminal paper = new Terminal(spec.commandLine().getOut());
        if (undo) {
            undo(paper);
            return;
        }
        if (dryRun) {
            paper.line("Would be dedicated to tests; nothing was written: "
                    + Jdbc.mayDedicate(database.dataSource(), name).database() + ".");
            return;
        }
        Dedicated dedicated = Jdbc.dedicate(database.dataSource(), name);
        paper.line("Dedicated to tests: " + dedicated.database() + ".");
        paper.line("Stages may store, change and delete anything in it from now on.");
    }

    private void undo(Terminal paper) {
        if (dryRun || name != null) {
            throw new ParameterException(
                    spec.commandLine(),
                    "--undo deletes no rows, and takes neither --dry-run nor --may-lose. Leave "
                            + (dryRun ? "--dry-run" : "--may-lose") + " out.");
        }
        paper.line("No longer dedicated to tests: "
                + Jdbc.undedicate(database.dataSource()).database() + ".");
        paper.line("Its rows stay; the mark, the journal and its triggers are gone.");
    }
}
