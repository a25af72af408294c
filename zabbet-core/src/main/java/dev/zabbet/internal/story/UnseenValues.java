package dev.zabbet.internal.story;

import dev.zabbet.internal.value.ValueEquality;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.UniqueKey;
import dev.zabbet.store.Change;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.function.BooleanSupplier;
import java.util.function.Predicate;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * Finds out which of the values that acts stored the expectations of a test look at, by asking those that hold once more, of rows in
 * which one value is another, one row is missing, still there or one more. A value for which all still hold is unseen.
 *
 * <p>A whole row goes first, and its columns one by one only if an expectation noticed the row. What is asked of a test is bounded
 * by its number of questions and of rows to compare, so that the same test is always asked the same. Guarded by its story.
 */
final class UnseenValues {
    private static final int MOST_ROWS = 12; // of one act and table
    private static final int MOST_QUESTIONS = 2_000;
    private static final long MOST_COMPARED = 200_000;

    private final List<StoredRow> rows = new ArrayList<>();
    private final List<WrittenValue> more = new ArrayList<>();
    private final List<RecordedAct> acts = new ArrayList<>();
    private final List<WrittenValue> settled = new ArrayList<>(); // of rows that a rewind has taken back
    private int questions;
    private long compared;
    private int untried;

    /** A row that an act added, changed or removed, and its values that count. */
    private record StoredRow(RecordedAct act, Change change, WrittenValue whole, List<WrittenValue> columns) {}

    /** Takes up what an act has stored. */
    void acted(RecordedAct act) {
        acts.add(act);
        Map<Table, Integer> of = new LinkedHashMap<>();
        Set<Table> grown = new LinkedHashSet<>();
        for (Change change : act.changes()) {
            if (change.rowBefore().isEmpty()) {
                grown.add(change.table());
            }
            if (of.merge(change.table(), 1, Integer::sum) > MOST_ROWS) {
                untried++;
                continue;
            }
            List<WrittenValue> columns = columns(change).stream()
                    .map(column -> new WrittenValue(act, change.table(), change, column))
                    .toList();
            rows.add(new StoredRow(act, change, new WrittenValue(act, change.table(), change, null), columns));
        }
        grown.forEach(table -> more.add(new WrittenValue(act, table, null, null)));
    }

    /** Returns the columns whose values count: not those that the database makes, not the key of a row, not what is null from the start. */
    private static List<Column> columns(Change change) {
        Table table = change.table();
        if (change instanceof Change.Changed changed) {
            return changed.columns().stream()
                    .map(table::requireColumn)
                    .filter(column -> !column.isComputed())
                    .toList();
        }
        Row row = change.rowAfter().orElse(null);
        boolean singleKey = table.keyColumns().size() == 1;
        return row == null
                ? List.of()
                : table.columns().stream()
                        .filter(column -> !column.isComputed() && !column.isNumbered())
                        .filter(column -> !singleKey || !table.keyColumns().contains(column.name()))
                        .filter(column -> row.get(column.name()) != null)
                        .toList();
    }

    /** Asks an expectation again that holds for the rows of a view. */
    void ask(RowsView view, Table table, Story.Question question) {
        Predicate<RowsView.Instead> noticed = instead -> {
            compared += view.size() + 1;
            return AskedAgain.doesNotHold(() -> question.ask(view.with(instead)));
        };
        for (StoredRow row : rows) {
            if (row.change().table().equals(table)) {
                ask(row, view, noticed);
            }
        }
        for (WrittenValue one : more) {
            if (one.table().equals(table) && one.state() != WrittenValue.State.SEEN) {
                tell(one, () -> noticed.test(new RowsView.Instead(table, null, oneMore(one.act(), table))));
            }
        }
    }

    private void ask(StoredRow stored, RowsView view, Predicate<RowsView.Instead> noticed) {
        Change change = stored.change();
        Table table = change.table();
        Row after = change.rowAfter().orElse(null);
        if (after == null) {
            tell(
                    stored.whole(),
                    () -> noticed.test(
                            new RowsView.Instead(table, null, change.rowBefore().orElseThrow())));
            return;
        }
        Row now =
                view.found(new RowsView.Instead(table, after, null)).orElseGet(() -> later(stored.act(), table, after));
        if (now == null) {
            return; // a later act has removed it
        }
        tell(
                stored.whole(),
                () -> noticed.test(
                        new RowsView.Instead(table, now, change.rowBefore().orElse(null))));
        List<WrittenValue> open = stored.columns().stream()
                .filter(one -> one.state() != WrittenValue.State.SEEN)
                .filter(one -> ValueEquality.values(one.value(), now.get(name(one))))
                .toList();
        Set<String> soughtBy = view.soughtBy(table);
        Predicate<Row> other = row -> noticed.test(new RowsView.Instead(table, now, row));
        Map<Boolean, List<WrittenValue>> parts =
                open.stream().collect(Collectors.partitioningBy(one -> soughtBy.contains(name(one))));
        askColumns(parts.getOrDefault(false, List.of()), now, change, other);
        askEach(parts.getOrDefault(true, List.of()), now, change, other);
    }

    /** Asks an expectation again that holds for what an act left. */
    void ask(RecordedAct act, Story.ChangesQuestion question) {
        List<Change> all = act.changes();
        for (StoredRow stored : rows) {
            if (stored.act() != act) {
                continue;
            }
            Change change = stored.change();
            Predicate<@Nullable Row> noticed = other -> {
                compared += all.size();
                List<Change> changes = new ArrayList<>(all);
                int at = changes.indexOf(change);
                changes.remove(at);
                if (other != null) {
                    changes.add(at, with(change, other));
                }
                changes.removeIf(one -> one instanceof Change.Changed changed
                        && changed.columns().isEmpty());
                return AskedAgain.doesNotHold(() -> question.ask(List.copyOf(changes)));
            };
            tell(stored.whole(), () -> noticed.test(null));
            Row after = change.rowAfter().orElse(null);
            if (after != null) {
                askColumns(
                        stored.columns().stream()
                                .filter(one -> one.state() != WrittenValue.State.SEEN)
                                .toList(),
                        after,
                        change,
                        noticed);
            }
        }
        for (WrittenValue one : more) {
            if (one.act() == act) {
                tell(one, () -> {
                    List<Change> changes = new ArrayList<>(all);
                    changes.add(new Change.Added(one.table(), oneMore(act, one.table())));
                    return AskedAgain.doesNotHold(() -> question.ask(List.copyOf(changes)));
                });
            }
        }
    }

    private static Change with(Change change, Row after) {
        return change.rowBefore()
                .<Change>map(before -> new Change.Changed(change.table(), before, after))
                .orElseGet(() -> new Change.Added(change.table(), after));
    }

    /** All at once first: an expectation that does not notice that looks at none of them. */
    private void askColumns(List<WrittenValue> open, Row now, Change change, Predicate<Row> noticed) {
        Row together = now;
        for (WrittenValue one : open) {
            List<@Nullable Object> others = others(one, now, change);
            if (!others.isEmpty()) {
                together = together.with(name(one), others.get(0));
            }
        }
        Row all = together;
        if (open.size() > 1 && isLeft()) {
            questions++;
            if (!noticed.test(all)) {
                open.forEach(one -> one.becomes(WrittenValue.State.UNSEEN));
                return;
            }
        }
        askEach(open, now, change, noticed);
    }

    private void askEach(List<WrittenValue> open, Row now, Change change, Predicate<Row> noticed) {
        for (WrittenValue one : open) {
            tell(one, () -> others(one, now, change).stream()
                    .anyMatch(other -> noticed.test(now.with(name(one), other))));
        }
    }

    private static List<@Nullable Object> others(WrittenValue one, Row now, Change change) {
        List<@Nullable Object> first = new ArrayList<>();
        change.rowBefore().ifPresent(before -> first.add(before.get(name(one))));
        return OtherValues.of(one.table(), one.column().orElseThrow(), now, first);
    }

    private static String name(WrittenValue one) {
        return one.column().orElseThrow().name();
    }

    private boolean isLeft() {
        return questions < MOST_QUESTIONS && compared < MOST_COMPARED;
    }

    private void tell(WrittenValue one, BooleanSupplier noticed) {
        if (one.state() == WrittenValue.State.SEEN || !isLeft()) {
            return;
        }
        questions++;
        one.becomes(noticed.getAsBoolean() ? WrittenValue.State.SEEN : WrittenValue.State.UNSEEN);
    }

    /** A row as later acts left it; null if one of them has removed it. */
    private @Nullable Row later(RecordedAct act, Table table, Row stored) {
        Row now = stored;
        RowsView.Instead sought = new RowsView.Instead(table, stored, null);
        for (RecordedAct later : acts.subList(acts.indexOf(act) + 1, acts.size())) {
            for (Change change : later.changes()) {
                if (change.table().equals(table) && sought.isOf(change.row())) {
                    now = change.rowAfter().orElse(null);
                }
            }
        }
        return now;
    }

    /** A row like one that the act has added, with other keys. */
    private static Row oneMore(RecordedAct act, Table table) {
        Row like = act.changes().stream()
                .filter(change ->
                        change.table().equals(table) && change.rowBefore().isEmpty())
                .map(Change::row)
                .reduce((first, second) -> second)
                .orElseThrow();
        Set<String> different = new LinkedHashSet<>(table.keyColumns());
        for (UniqueKey key : table.uniques()) {
            different.addAll(key.columns());
        }
        Row other = like;
        for (String column : different) {
            List<@Nullable Object> others = OtherValues.of(table, table.requireColumn(column), like, List.of());
            if (!others.isEmpty() && others.get(0) != null) {
                other = other.with(column, others.get(0));
            }
        }
        return other;
    }

    /** Takes note that the test has read rows by itself. */
    void read(@Nullable Table table) {
        for (StoredRow row : rows) {
            if (table == null || row.change().table().equals(table)) {
                row.whole().becomes(WrittenValue.State.MAYBE_SEEN);
                row.columns().forEach(one -> one.becomes(WrittenValue.State.MAYBE_SEEN));
            }
        }
        for (WrittenValue one : more) {
            if (table == null || one.table().equals(table)) {
                one.becomes(WrittenValue.State.MAYBE_SEEN);
            }
        }
    }

    /** What was stored until now is there no more. */
    void rewound() {
        List<WrittenValue> known = all();
        settled.clear();
        settled.addAll(known);
        rows.clear();
        more.clear();
        acts.clear();
    }

    /** Returns all that was stored, and what is known of it. */
    List<WrittenValue> all() {
        List<WrittenValue> all = new ArrayList<>(settled);
        for (StoredRow row : rows) {
            all.add(row.whole());
            all.addAll(row.columns());
        }
        all.addAll(more);
        return all;
    }

    /** Returns how many rows there were too many of to ask about. */
    int untried() {
        return untried;
    }
}
