package dev.zabbet.files.internal;

import dev.zabbet.internal.document.RowPart;
import dev.zabbet.internal.report.RowFilter;
import dev.zabbet.internal.value.Ordering;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import dev.zabbet.store.Store;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.PriorityQueue;
import java.util.concurrent.atomic.LongAdder;
import java.util.regex.Pattern;
import java.util.stream.Collectors;

/** Rows of a table for which some {@linkplain WrittenCondition conditions} hold together. */
public final class RowSelection {
    private static final Pattern SECRET =
            Pattern.compile("(?i).*(passw(or)?d|pwd|secret|token|hash|salt|api_?key|credential|private_?key).*");

    private final Store store;
    private final Table table;
    private final List<RowFilter> filters;
    private final Condition condition;

    public RowSelection(Store store, Table table, List<String> conditions) {
        this.store = store;
        this.table = table;
        this.filters = conditions.stream()
                .map(text -> WrittenCondition.of(table, text))
                .toList();
        Condition all = Condition.all();
        for (RowFilter filter : filters) {
            all = all.and(filter.condition());
        }
        this.condition = all;
    }

    /** Ends the reading of a table of which enough is known. */
    private static final class EnoughException extends RuntimeException {
        EnoughException() {
            super(null, null, false, false);
        }
    }

    /**
     * What of rows is shown.
     *
     * @param shown columns, and places in their documents
     * @param hidden those that are named like password hashes, keys or tokens
     */
    public record Shown(List<RowPart> shown, List<RowPart> hidden) {
        /**
         * Returns what is shown of the parts that are named, or of all columns if none is.
         *
         * @param all whether nothing is hidden
         */
        public static Shown of(Table table, List<String> names, boolean all) {
            Map<Boolean, List<RowPart>> parts = (names.isEmpty() ? table.columnNames() : names)
                    .stream()
                            .map(name -> RowPart.of(table, name))
                            .collect(Collectors.partitioningBy(
                                    part -> all || !SECRET.matcher(part.name()).matches()));
            return new Shown(parts.getOrDefault(true, List.of()), parts.getOrDefault(false, List.of()));
        }

        public List<String> hiddenNames() {
            return hidden.stream().map(RowPart::name).toList();
        }
    }

    /** Returns the table and the conditions in words. */
    public String text() {
        List<String> texts = filters.stream().map(RowFilter::text).toList();
        return table.name() + (texts.isEmpty() ? "" : " where " + String.join(" and ", texts));
    }

    public long count() {
        if (filters.isEmpty()) {
            return store.count(table);
        }
        LongAdder found = new LongAdder();
        store.readStreaming(table, condition, row -> found.increment());
        return found.sum();
    }

    /**
     * Reads at most so many rows.
     *
     * @param order columns, each with a minus before it for descending; without any, the rows come as the store has them
     */
    public List<Row> first(int most, List<String> order) {
        if (order.isEmpty()) {
            List<Row> rows = new ArrayList<>();
            try {
                store.readStreaming(table, condition, row -> {
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
        Comparator<Row> comparator = comparator(order);
        PriorityQueue<Row> best = new PriorityQueue<>(comparator.reversed());
        store.readStreaming(table, condition, row -> {
            best.add(row.row());
            if (best.size() > most) {
                best.remove();
            }
        });
        return best.stream().sorted(comparator).toList();
    }

    private Comparator<Row> comparator(List<String> order) {
        List<Comparator<Row>> parts = new ArrayList<>();
        for (String one : order) {
            boolean down = one.startsWith("-");
            Comparator<Row> by = by(RowPart.of(table, down ? one.substring(1) : one));
            parts.add(down ? by.reversed() : by);
        }
        table.keyColumns().forEach(key -> parts.add(by(RowPart.of(table.requireColumn(key)))));
        return parts.stream().reduce(Comparator::thenComparing).orElseThrow();
    }

    private static Comparator<Row> by(RowPart part) {
        return Comparator.comparing(part::in, Comparator.nullsFirst((a, b) -> Ordering.compare(a, b)));
    }
}
