package dev.zabbet.cli;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.files.RowDocument;
import dev.zabbet.internal.text.Words;
import dev.zabbet.jdbc.Jdbc;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** Compares what is stored with the expectations of row documents. */
@Command(
        name = "verify",
        mixinStandardHelpOptions = true,
        sortOptions = false,
        description = {
            "Compares what is stored with what row documents expect of it. The exit status is 0 if all holds, 1 if not."
                    + " The database is only read.",
            "",
            "Example: zabbet verify --db jdbc:postgresql://localhost/huts_test seeds/huts.yaml",
            ""
        })
final class VerifyCommand implements Callable<Integer> {
    @Mixin
    private final DatabaseOptions database = new DatabaseOptions();

    @Mixin
    private final OutputOptions output = new OutputOptions();

    @Option(
            names = "--rewrite",
            description =
                    "Rewrites in the files what does not hold, from what is stored; comments, order and what holds stay."
                            + " Refused where CI is set.")
    private boolean rewrite;

    @Parameters(arity = "1..*", paramLabel = "FILE", description = "Row documents with an expect part.")
    private List<String> files = new ArrayList<>();

    @Spec
    @SuppressWarnings("NullAway.Init") // set by picocli before run()
    private CommandSpec spec;

    @Override
    public Integer call() {
        RowDocument document = Documents.expectations(files);
        if (!document.expectsStored()) {
            throw new ZabbetException(String.join(", ", files)
                    + " expects nothing to be stored: there is no expect part, or it is empty.");
        }
        Documents.rewrite(rewrite);
        Terminal paper = new Terminal(spec.commandLine().getOut());
        try (Stage stage = Jdbc.reading(database.dataSource())) {
            try {
                stage.expect(document);
            } catch (AssertionError e) {
                String report = output.isJson() ? Terminal.plain(e) : paper.report(e);
                paper.shown(output.isJson() ? OutputOptions.json(Map.of("holds", false, "report", report)) : report);
                return 1;
            }
            paper.heading(
                    document.size() == 1
                            ? "The expectation holds"
                            : "All " + Words.count(document.size(), "expectation") + " hold");
            return 0;
        }
    }
}
