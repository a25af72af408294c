package dev.zabbet.cli;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.files.internal.RowSelection;
import dev.zabbet.internal.document.RowPart;
import dev.zabbet.internal.text.Words;
import dev.zabbet.jdbc.Jdbc;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Table;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.ArgGroup;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** Shows rows of a table, or counts them. */
@Command(
        name = "look",
        mixinStandardHelpOptions = true,
        sortOptions = false,
        description = {
            "Shows the rows of a table, or checks how many there are (exit status 1 if another number). The database is only"
                    + " read.",
            "",
            "Example: zabbet look stay id status --where status=CANCELLED --where \"nights between 1 and 3\" --order -arrives",
            "Example: zabbet look stay --where status=CANCELLED --count 2",
            ""
        })
final class LookCommand implements Callable<Integer> {
    private static final int FIRST = 20;
    private static final int MOST = 1_000_000; // they are held, to be laid out

    @Parameters(index = "0", paramLabel = "TABLE", description = "The table.")
    private String name = "";

    @Parameters(
            index = "1..*",
            arity = "0..*",
            paramLabel = "COLUMN",
            description = "The columns to show, or places in their documents (amenities.floors); without any, all.")
    private List<String> columns = new ArrayList<>();

    @Mixin
    private final DatabaseOptions database = new DatabaseOptions();

    @Option(
            names = "--where",
            paramLabel = "CONDITION",
            description =
                    "Only rows for which it holds: COLUMN=VALUE (or <>, <, <=, >, >=; null is SQL's), or words as in"
                            + " \"nights between 1 and 3\" and \"note not null\". Several of them hold together.")
    private List<String> where = new ArrayList<>();

    @Option(
            names = "--order",
            paramLabel = "COLUMN",
            split = ",",
            description = "Orders by these columns, a minus before one for descending; without it, by the key.")
    private List<String> order = new ArrayList<>();

    @Option(names = "--first", paramLabel = "N", description = "Shows at most N rows; without it, 20.")
    private @Nullable Integer first;

    @Option(
            names = "--count",
            paramLabel = "N",
            description = "Shows no rows; the exit status is 1 if there are not N.")
    private @Nullable Long count;

    @ArgGroup
    private @Nullable Form form;

    @Option(
            names = "--all",
            description = "Shows long texts whole, and columns that look like secrets, such as password_hash.")
    private boolean all;

    @Spec
    @SuppressWarnings("NullAway.Init") // set by picocli before run()
    private CommandSpec spec;

    /** How rows are printed, if not as a table for people. */
    static final class Form {
        @Option(names = "--json", description = "Prints the rows as JSON.")
        boolean json;

        @Option(names = "--csv", description = "Prints the rows as CSV, which zabbet load reads.")
        boolean csv;

        @Option(
                names = "--markdown",
                description = "Prints the rows as a Markdown table, to be pasted into an expectation.")
        boolean markdown;
    }

    @Override
    public Integer call() {
        if (first != null && (first < 1 || first > MOST)) {
            throw new ZabbetException("--first takes a number from 1 to 1000000; it was " + first + ".");
        }
        if (count != null && count < 0) {
            throw new ZabbetException("--count takes a number from 0; it was " + count + ".");
        }
        boolean shows = !columns.isEmpty() || !order.isEmpty() || first != null || form != null || all;
        if (count != null && shows) {
            throw new ZabbetException(
                    "--count shows no rows. Leave out columns, --order, --first, --all and the form of rows.");
        }
        try (Stage stage = Jdbc.reading(database.dataSource())) {
            Table table = stage.schema().require(name);
            RowSelection rows = new RowSelection(stage.store(), table, where);
            Long expected = count;
            return expected == null ? show(table, rows) : check(rows, expected);
        }
    }

    private int check(RowSelection rows, long expected) {
        long found = rows.count();
        Terminal paper = new Terminal(spec.commandLine().getOut());
        String counted = rows.text() + ": " + Words.count(found, "row");
        paper.line(found == expected ? counted : counted + "; " + expected + " expected.");
        return found == expected ? 0 : 1;
    }

    private int show(Table table, RowSelection selection) {
        RowSelection.Shown parts = RowSelection.Shown.of(table, columns, all);
        String hidden = String.join(", ", parts.hiddenNames());
        List<String> names = parts.shown().stream().map(RowPart::name).toList();
        if (names.isEmpty() && !hidden.isEmpty()) {
            throw new ZabbetException("All of these columns look like secrets: " + hidden + ". --all shows them.");
        }
        int most = first == null ? FIRST : first;
        List<Row> rows = selection.first(most + 1, order).stream()
                .map(row -> RowPart.of(parts.shown(), row))
                .toList();
        boolean more = rows.size() > most;
        LookForms forms = new LookForms(names, more ? rows.subList(0, most) : rows);
        List<String> notes = new ArrayList<>();
        if (more) {
            notes.add("There are more rows; "
                    + (most < MOST ? "--first " + Math.min(MOST, most * 10L) + " shows more." : "add a --where."));
        }
        if (!hidden.isEmpty()) {
            notes.add("Hidden: " + hidden + "; --all shows " + (parts.hidden().size() == 1 ? "it." : "them."));
        }
        Form as = form;
        if (as == null) {
            Terminal paper = new Terminal(spec.commandLine().getOut());
            forms.print(paper, selection.text(), more, all);
            notes.forEach(note -> paper.shown(paper.faint(note)));
        } else {
            spec.commandLine().getOut().print(text(forms, as));
            spec.commandLine().getOut().flush();
            notes.forEach(note -> spec.commandLine().getErr().println("zabbet: " + note));
        }
        return 0;
    }

    private static String text(LookForms forms, Form as) {
        if (as.json) {
            return forms.json();
        }
        return as.csv ? forms.csv() : forms.markdown();
    }
}
