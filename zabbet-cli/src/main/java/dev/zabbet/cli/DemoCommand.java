package dev.zabbet.cli;

import dev.zabbet.examples.story.HutsStory;
import dev.zabbet.examples.story.Teller;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.value.Text;
import dev.zabbet.row.Row;
import dev.zabbet.store.Change;
import java.util.List;
import java.util.stream.Collectors;
import picocli.CommandLine.Command;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Spec;

/** Tells the alpine-huts story. */
@Command(
        name = "demo",
        mixinStandardHelpOptions = true,
        description = {
            "Tells the alpine-huts story on an embedded database: rows are arranged, an application runs, and what is"
                    + " stored is judged.",
            "",
            "Example: zabbet demo"
        })
final class DemoCommand implements Runnable {
    @Spec
    @SuppressWarnings("NullAway.Init") // set by picocli before run()
    private CommandSpec spec;

    @Override
    public void run() {
        Terminal paper = new Terminal(spec.commandLine().getOut());
        HutsStory.tell(new Printing(paper));
        paper.blank();
        paper.line("The code behind this story: zabbet-examples. Your own first test: README.md.");
    }

    private static final class Printing implements Teller {
        private final Terminal paper;
        private int chapters;

        Printing(Terminal paper) {
            this.paper = paper;
        }

        @Override
        public void chapter(String title) {
            if (chapters > 0) {
                paper.blank();
            }
            chapters++;
            paper.heading(chapters + "  " + title);
        }

        @Override
        public void code(String code) {
            paper.blank();
            code.lines().forEach(line -> paper.shown("   ", paper.faint("│ "), line));
        }

        @Override
        public void rows(String table, List<String> columns, List<Row> rows) {
            paper.blank();
            paper.shown("   ", paper.bold(table), paper.faint(", " + Words.count(rows.size(), "row")));
            paper.rows("     ", columns, rows);
        }

        @Override
        public void changes(List<Change> changes) {
            paper.blank();
            paper.shown("   ", paper.bold("footprint"), paper.faint(", " + Words.count(changes.size(), "change")));
            for (Change change : changes) {
                paper.line("     " + describe(change));
            }
        }

        private static String describe(Change change) {
            String key = change.table().keyColumns().stream()
                    .map(k -> Text.cell(change.row().get(k)))
                    .collect(Collectors.joining("/"));
            String name = change.table().name() + " " + key;
            if (change instanceof Change.Changed changed) {
                return name + " changed: "
                        + changed.columns().stream()
                                .map(c -> c + " " + Text.cell(changed.before().get(c)) + " → "
                                        + Text.cell(changed.after().get(c)))
                                .collect(Collectors.joining(", "));
            }
            String contents = change.table().columnNames().stream()
                    .filter(c -> !change.table().keyColumns().contains(c))
                    .map(c -> c + "=" + Text.cell(change.row().get(c)))
                    .collect(Collectors.joining(", "));
            return name + " " + change.word() + ": " + contents;
        }

        @Override
        public void held(String sentence) {
            paper.blank();
            paper.shown("   ", paper.good("holds"), "  ", sentence);
        }

        @Override
        public void failed(AssertionError failure) {
            paper.blank();
            paper.shown("   ", paper.bad("fails"), "  with this report:");
            paper.blank();
            paper.report(failure).lines().forEach(line -> paper.shown(line.isEmpty() ? "" : "     ", line));
        }

        @Override
        public void remark(String sentence) {
            paper.blank();
            paper.line("   " + sentence);
        }
    }
}
