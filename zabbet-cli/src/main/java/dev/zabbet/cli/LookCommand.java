package dev.zabbet.cli;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.report.RowFilter;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.value.Ordering;
import dev.zabbet.jdbc.Jdbc;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.PriorityQueue;
import java.util.concurrent.Callable;
import java.util.concurrent.atomic.LongAdder;
import java.util.regex.Pattern;
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
    private static final Pattern SECRET =
            Pattern.compile("(?i).*(passw(or)?d|pwd|secret|token|hash|salt|api_?key|credential|private_?key).*");

    @Parameters(index = "0", paramLabel = "TABLE", description = "The table.")
    private String name = "";

    @Parameters(
            index = "1..*",
            arity = "0..*",
            paramLabel = "COLUMN",
            description = "The columns to show; without any, all.")
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

    /** Ends the reading of a table of which enough is known. */
    private static final class EnoughException extends RuntimeException {
        EnoughException() {
            super(null, null, false, false);
        }
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
            List<RowFilter> filters =
                    where.stream().map(text -> LookWhere.of(table, text)).toList();
            Condition condition = Condition.all();
            for (RowFilter filter : filters) {
                condition = condition.and(filter.condition());
            }
            String what = table.name()
                    + (filters.isEmpty()
                            ? ""
                            : " where "
                                    + String.join(
                                            " and ",
                                            filters.stream()
                                                    .map(RowFilter::text)
                                                    .toList()));
            Long expected = count;
            return expected == null
                    ? show(stage, table, condition, what)
                    : check(stage, table, condition, what, expected);
        }
    }

    private int check(Stage stage, Table table, Condition condition, String what, long expected) {
        LongAdder found = new LongAdder();
        if (where.isEmpty()) {
            found.add(stage.store().count(table));
        } else {
            stage.store().readStreaming(table, condition, row -> found.increment());
        }
        Terminal paper = new Terminal(spec.commandLine().getOut());
        boolean holds = found.sum() == expected;
        String counted = what + ": " + Words.count(found.sum(), "row");
        paper.line(holds ? counted : counted + "; " + expected + " expected.");
        return holds ? 0 : 1;
    }

    private int show(Stage stage, Table table, Condition condition, String what) {
        List<Column> shown = columns.isEmpty()
                ? table.columns()
                : columns.stream().map(table::requireColumn).toList();
        List<Column> hidden = shown.stream()
                .filter(column -> !all && SECRET.matcher(column.name()).matches())
                .toList();
        List<String> names = shown.stream()
                .filter(c -> !hidden.contains(c))
                .map(Column::name)
                .toList();
        if (names.isEmpty() && !hidden.isEmpty()) {
            throw new ZabbetException(
                    "All of these columns look like secrets: " + columnsOf(hidden) + ". --all shows them.");
        }
        int most = first == null ? FIRST : first;
        List<Row> rows = read(stage, table, condition, most + 1);
        boolean more = rows.size() > most;
        LookForms forms = new LookForms(names, more ? rows.subList(0, most) : rows);
        List<String> notes = new ArrayList<>();
        if (more) {
            notes.add("There are more rows; "
                    + (most < MOST ? "--first " + Math.min(MOST, most * 10L) + " shows more." : "add a --where."));
        }
        if (!hidden.isEmpty()) {
            notes.add("Hidden: " + columnsOf(hidden) + "; --all shows " + (hidden.size() == 1 ? "it." : "them."));
        }
        Form as = form;
        if (as == null) {
            Terminal paper = new Terminal(spec.commandLine().getOut());
            forms.print(paper, what, more, all);
            notes.forEach(note -> paper.shown(paper.faint(note)));
        } else {
            spec.commandLine().getOut().print(text(forms, as));
            spec.commandLine().getOut().flush();
            notes.forEach(note -> spec.commandLine().getErr().println("zabbet: " + note));
        }
        return 0;
    }

    private static String columnsOf(List<Column> hidden) {
        return String.join(", ", hidden.stream().map(Column::name).toList());
    }

    private static String text(LookForms forms, Form as) {
        if (as.json) {
            return forms.json();
        }
        return as.csv ? forms.csv() : forms.markdown();
    }

    /** Reads at most so many rows: the first in the order that was asked for. */
    private List<Row> read(Stage stage, Table table, Condition condition, int most) {
        if (order.isEmpty()) {
            List<Row> rows = new ArrayList<>();
            try {
                stage.store().readStreaming(table, condition, row -> {
                    rows.add(row.row());
                    if (rows.size() == most) {
                        throw new EnoughException();
                    }
                });
            } catch (EnoughException e) {
                return rows;
            }
            return rows;
        }
        Comparator<Row> comparator = comparator(table);
        PriorityQueue<Row> best = new PriorityQueue<>(comparator.reversed());
        stage.store().readStreaming(table, condition, row -> {
            best.add(row.row());
            if (best.size() > most) {
                best.remove();
            }
        });
        return best.stream().sorted(comparator).toList();
    }

    private Comparator<Row> comparator(Table table) {
        Comparator<Row> whole = null;
        for (String one : order) {
            boolean down = one.startsWith("-");
            String column = table.requireColumn(down ? one.substring(1) : one).name();
            Comparator<Row> by = Comparator.comparing(
                    row -> row.get(column), Comparator.nullsFirst((a, b) -> Ordering.compare(a, b)));
            by = down ? by.reversed() : by;
            whole = whole == null ? by : whole.thenComparing(by);
        }
        if (whole == null) {
            throw new IllegalStateException("no order");
        }
        for (String key : table.keyColumns()) {
            whole = whole.thenComparing(row -> row.get(key), Comparator.nullsFirst((a, b) -> Ordering.compare(a, b)));
        }
        return whole;
    }
}
