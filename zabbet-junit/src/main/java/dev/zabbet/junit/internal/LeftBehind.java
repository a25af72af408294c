package dev.zabbet.junit.internal;

import dev.zabbet.Footprint;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Change;
import dev.zabbet.type.Kind;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.opentest4j.AssertionFailedError;

/** What the acts of each test left on the first stage it ran on, to compare with the others. Thread-safe. */
final class LeftBehind {
    private final Map<String, Passed> first = new HashMap<>();

    private record Passed(String place, List<List<String>> acts) {}

    /** Returns where a test has passed already. */
    synchronized Optional<String> passedElsewhere(String test) {
        return Optional.ofNullable(first.get(test)).map(Passed::place);
    }

    /**
     * Keeps what a test left, or compares it with what it left elsewhere.
     *
     * @throws AssertionError if it left other rows
     */
    synchronized void compare(String test, String place, List<Footprint> footprints) {
        List<List<String>> acts = footprints.stream().map(LeftBehind::lines).toList();
        Passed known = first.putIfAbsent(test, new Passed(place, acts));
        if (known == null || known.acts().equals(acts)) {
            return;
        }
        StringBuilder report =
                new StringBuilder("This test leaves other rows " + place + " than " + known.place() + ".");
        for (int i = 0; i < Math.max(acts.size(), known.acts().size()); i++) {
            List<String> here = i < acts.size() ? acts.get(i) : List.of();
            List<String> there = i < known.acts().size() ? known.acts().get(i) : List.of();
            if (!here.equals(there)) {
                report.append("\nAct ").append(i + 1).append(':');
                append(report, "only " + known.place(), there, here);
                append(report, "only " + place, here, there);
            }
        }
        throw new AssertionFailedError(report.toString(), known.acts(), acts);
    }

    private static void append(StringBuilder report, String what, List<String> lines, List<String> others) {
        List<String> rest = new ArrayList<>(lines);
        others.forEach(rest::remove);
        if (!rest.isEmpty()) {
            report.append("\n  ").append(what).append(":");
            rest.forEach(line -> report.append("\n    ").append(line));
        }
    }

    private static List<String> lines(Footprint footprint) {
        return footprint.changes().stream().map(LeftBehind::line).sorted().toList();
    }

    private static String line(Change change) {
        Table table = change.table();
        if (change instanceof Change.Changed changed) {
            return "changed " + table.name() + ": " + cells(table, changed.before(), table.columnNames()) + " to "
                    + cells(table, changed.after(), changed.columns());
        }
        String where = change.rowAfter().isPresent() ? " to " : " from ";
        return change.word() + where + table.name() + ": " + cells(table, change.row(), table.columnNames());
    }

    private static String cells(Table table, Row row, List<String> columns) {
        List<String> cells = new ArrayList<>();
        for (String name : columns) {
            Column column = table.requireColumn(name);
            if (!isGiven(table, column)) {
                Object value = row.get(name);
                cells.add(name + "="
                        + (value instanceof BigDecimal number
                                ? number.stripTrailingZeros().toPlainString()
                                : value));
            }
        }
        return cells.toString();
    }

    /** What a database makes up by itself does not count: numbers, references to them, UUIDs, defaults. */
    private static boolean isGiven(Table table, Column column) {
        boolean dynamic = column.defaultText()
                .filter(d ->
                        d.contains("(") || d.toLowerCase(java.util.Locale.ROOT).contains("current"))
                .isPresent();
        return column.isNumbered()
                || dynamic
                || column.isComputed()
                || column.type().kind() == Kind.UUID
                || column.type().kind() == Kind.BYTES
                || column.type().kind() == Kind.JSON
                || !table.referencesOf(column.name()).isEmpty();
    }
}
