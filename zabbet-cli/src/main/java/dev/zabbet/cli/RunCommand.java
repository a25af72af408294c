package dev.zabbet.cli;

import dev.zabbet.Acted;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.expect.Expected;
import dev.zabbet.files.RowDocument;
import dev.zabbet.files.internal.RowsAsJson;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.value.Text;
import dev.zabbet.jdbc.Jdbc;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Change;
import java.io.IOException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** Runs a program and prints what it left. */
@Command(
        name = "run",
        mixinStandardHelpOptions = true,
        sortOptions = false,
        description = {
            "Runs any program and prints its footprint: the rows that were added, changed and removed while it ran, by"
                    + " whomever. Its streams are passed through; the exit status is the program's own, or 2 if it could not be"
                    + " run.",
            "",
            "Example: zabbet run --db jdbc:postgresql://localhost/huts_test -- ./nightly-job.sh",
            ""
        })
final class RunCommand implements Callable<Integer> {
    private static final int MOST_SHOWN = 20;

    @Mixin
    private final DatabaseOptions database = new DatabaseOptions();

    @Mixin
    private final OutputOptions output = new OutputOptions();

    @Option(
            names = "--expect",
            paramLabel = "FILE",
            description =
                    "Checks the footprint part of a row document, and its expect part; the exit status is 1 if one does"
                            + " not hold.")
    private @Nullable String expected;

    @Option(
            names = "--rewrite",
            description =
                    "Rewrites in that file what does not hold, from what the program left; comments, order and what"
                            + " holds stay. Refused where CI is set.")
    private boolean rewrite;

    @Option(
            names = "--with-password",
            description = "Leaves ZABBET_PASSWORD in the program's environment, which it is taken out of otherwise.")
    private boolean withPassword;

    @Option(names = "--rewind", description = "Brings all rows back afterwards.")
    private boolean rewind;

    @Parameters(arity = "1..*", paramLabel = "CMD", description = "The program and its arguments, after --.")
    private List<String> command = new ArrayList<>();

    @Spec
    @SuppressWarnings("NullAway.Init") // set by picocli before run()
    private CommandSpec spec;

    @Override
    public Integer call() {
        if (rewrite && expected == null) {
            throw new ZabbetException("--rewrite rewrites the file that --expect names; name one.");
        }
        Documents.rewrite(rewrite);
        RowDocument document = expected == null ? null : Documents.expectations(List.of(expected));
        if (document != null && !document.expectsChanged() && !document.expectsStored()) {
            throw new ZabbetException(expected + " has neither a footprint part nor an expect part.");
        }
        try (Stage stage = Jdbc.stage(database.dataSource())) {
            var before = stage.mark();
            Acted<Integer> acted = stage.act(this::runProgram);
            int status = acted.value();
            if (document == null) {
                print(acted);
            } else {
                status = check(document, stage, acted);
            }
            if (rewind) {
                stage.rewind(before);
                if (!output.isJson()) {
                    Terminal paper = new Terminal(spec.commandLine().getOut());
                    paper.blank();
                    paper.line("All rows are as they were before.");
                }
            }
            return status;
        }
    }

    /** Prints the footprint only where it is not as expected. */
    private int check(RowDocument document, Stage stage, Acted<Integer> acted) {
        Terminal paper = new Terminal(spec.commandLine().getOut());
        List<Runnable> checks = new ArrayList<>();
        if (document.expectsChanged()) {
            checks.add(() -> acted.expect(document));
        }
        if (document.expectsStored()) {
            checks.add(() -> stage.expect(document));
        }
        try {
            Expected.together(checks.toArray(Runnable[]::new));
        } catch (AssertionError e) {
            String report = output.isJson() ? Terminal.plain(e) : paper.report(e);
            if (output.isJson()) {
                Map<String, Object> result = asMap(acted);
                result.put("holds", false);
                result.put("report", report);
                paper.line(OutputOptions.json(result));
            } else {
                paper.shown(report);
            }
            return 1;
        }
        if (output.isJson()) {
            Map<String, Object> result = asMap(acted);
            result.put("holds", true);
            paper.line(OutputOptions.json(result));
            return acted.value();
        }
        paper.heading("The program ended with status " + acted.value() + " and left what " + expected + " expects: "
                + Words.count(acted.changes().size(), "change"));
        return acted.value();
    }

    private int runProgram() throws InterruptedException {
        try {
            ProcessBuilder program = new ProcessBuilder(command).inheritIO();
            if (!withPassword) {
                program.environment().remove("ZABBET_PASSWORD");
            }
            return program.start().waitFor();
        } catch (IOException e) {
            throw new ZabbetException("The program " + command.get(0) + " cannot be run: " + e.getMessage()
                    + ". Is it there, and executable?");
        }
    }

    private void print(Acted<Integer> acted) {
        Terminal paper = new Terminal(spec.commandLine().getOut());
        if (output.isJson()) {
            paper.line(OutputOptions.json(asMap(acted)));
            return;
        }
        List<Change> changes = acted.changes();
        paper.heading("The program ended with status " + acted.value() + " and left "
                + (changes.isEmpty() ? "nothing" : Words.count(changes.size(), "change")));
        for (Table table : changes.stream().map(Change::table).distinct().toList()) {
            rows(paper, table, "added", acted.added(table.name()));
            changed(paper, table, changes);
            rows(paper, table, "removed", acted.removed(table.name()));
        }
    }

    private static Map<String, Object> asMap(Acted<Integer> acted) {
        Map<String, Object> result = new LinkedHashMap<>();
        result.put("status", acted.value());
        result.put("changes", RowsAsJson.of(acted.changes()));
        return result;
    }

    private static void rows(Terminal paper, Table table, String what, List<Row> rows) {
        if (rows.isEmpty()) {
            return;
        }
        paper.blank();
        paper.shown("  ", paper.bold(table.name()), ", " + rows.size() + " " + what);
        List<String> columns = table.columnNames().stream()
                .filter(c -> rows.stream().anyMatch(row -> row.get(c) != null))
                .toList();
        paper.rows("    ", columns, rows.subList(0, Math.min(rows.size(), MOST_SHOWN)));
        more(paper, rows.size());
    }

    private static void changed(Terminal paper, Table table, List<Change> changes) {
        List<Change.Changed> own = changes.stream()
                .filter(c -> c instanceof Change.Changed && c.table().equals(table))
                .map(Change.Changed.class::cast)
                .toList();
        if (own.isEmpty()) {
            return;
        }
        paper.blank();
        paper.shown("  ", paper.bold(table.name()), ", " + own.size() + " changed");
        List<List<String>> grid = new ArrayList<>();
        grid.add(List.of("row", "column", "before", "after"));
        for (Change.Changed change : own.subList(0, Math.min(own.size(), MOST_SHOWN))) {
            String key = String.join(
                    "/",
                    table.keyColumns().stream()
                            .map(c -> Text.cell(change.after().get(c)))
                            .toList());
            for (String column : change.columns()) {
                grid.add(List.of(
                        key,
                        column,
                        Text.cell(change.before().get(column)),
                        Text.cell(change.after().get(column))));
                key = "";
            }
        }
        paper.grid("    ", grid);
        more(paper, own.size());
    }

    private static void more(Terminal paper, int all) {
        if (all > MOST_SHOWN) {
            paper.line("    … and " + (all - MOST_SHOWN) + " more");
        }
    }
}
