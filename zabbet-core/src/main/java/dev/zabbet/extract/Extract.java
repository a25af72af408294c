package dev.zabbet.extract;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.ColumnPattern;
import dev.zabbet.internal.text.Words;
import java.math.BigDecimal;
import java.time.Duration;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * Which rows an extract takes. Parents always come along, up to those that refer to nobody; rows below only where that was asked
 * for. Every method returns another extract. Immutable and thread-safe.
 */
public final class Extract {
    private static final int USUAL_MOST = 100_000;
    private static final Duration USUAL_TIMEOUT = Duration.ofSeconds(30);

    private final Map<String, Asked> asked;
    private final List<Below> below;
    private final List<String> without;
    private final List<Ref> refs;
    private final int most;
    private final int depth;
    private final Duration timeout;

    private Extract(
            Map<String, Asked> asked,
            List<Below> below,
            List<String> without,
            List<Ref> refs,
            int most,
            int depth,
            Duration timeout) {
        this.asked = asked;
        this.below = List.copyOf(below);
        this.without = List.copyOf(without);
        this.refs = List.copyOf(refs);
        this.most = most;
        this.depth = depth;
        this.timeout = timeout;
    }

    /**
     * What is asked of one table.
     *
     * @param wanted whether rows of it are asked for; otherwise conditions and order are about rows below others
     * @param rows how many rows at most; empty for all for which the conditions hold
     * @param share the part of them, above 0 and up to 1
     * @param keys single keys, each a value or a list of values in key order: these rows, and others only if a number or share is
     *     given too
     * @param where conditions, all of which have to hold
     * @param sql conditions in the database's own SQL
     * @param order columns to order by, a minus before one for descending; without any, by the key
     */
    public record Asked(
            boolean wanted,
            Optional<Integer> rows,
            BigDecimal share,
            List<Object> keys,
            List<Where> where,
            List<String> sql,
            List<String> order) {
        static final Asked NOTHING =
                new Asked(false, Optional.empty(), BigDecimal.ONE, List.of(), List.of(), List.of(), List.of());

        /**
         * Copies the lists.
         *
         * @param wanted whether rows are asked for
         * @param rows how many rows at most
         * @param share the part of them
         * @param keys single keys
         * @param where conditions
         * @param sql conditions in SQL
         * @param order columns to order by
         */
        public Asked {
            keys = List.copyOf(keys);
            where = List.copyOf(where);
            sql = List.copyOf(sql);
            order = List.copyOf(order);
        }

        /**
         * {@return both, where one table was named in two ways}
         *
         * @param other what was said under another name; its number, share and order count before these
         */
        public Asked and(Asked other) {
            return new Asked(
                    wanted || other.wanted,
                    other.rows.or(() -> rows),
                    other.share.compareTo(BigDecimal.ONE) < 0 ? other.share : share,
                    joined(keys, other.keys),
                    joined(where, other.where),
                    joined(sql, other.sql),
                    other.order.isEmpty() ? order : other.order);
        }

        private Asked wanted(Optional<Integer> most) {
            return new Asked(true, most, share, keys, where, sql, order);
        }

        private Asked shared(BigDecimal part) {
            return new Asked(true, rows, part, keys, where, sql, order);
        }

        private Asked withKey(Object key) {
            return new Asked(true, rows, share, plus(keys, key), where, sql, order);
        }

        private Asked withCondition(Where condition) {
            return new Asked(wanted, rows, share, keys, plus(where, condition), sql, order);
        }

        private Asked withSql(String condition) {
            return new Asked(wanted, rows, share, keys, where, plus(sql, condition), order);
        }

        private Asked ordered(List<String> columns) {
            return new Asked(wanted, rows, share, keys, where, sql, columns);
        }
    }

    /**
     * A condition.
     *
     * @param column the column's name
     * @param value a value, null, or a matcher such as {@code Expected.below(…)}
     */
    public record Where(String column, @Nullable Object value) {}

    /**
     * Rows that are wanted below others.
     *
     * @param table the table of the rows, {@code table.column} for those of one reference, or {@code *} for every table
     * @param rows how many for each row that they refer to at most; empty for all
     */
    public record Below(String table, Optional<Integer> rows) {}

    /**
     * A place in documents that holds the key of a row.
     *
     * @param place the place with its table and column
     * @param table the table of that row
     */
    public record Ref(String place, String table) {}

    /**
     * {@return the first rows of a table}
     *
     * @param table the table's name
     * @param rows how many at most, at least 1
     */
    public static Extract rows(String table, int rows) {
        return nothing().andRows(table, rows);
    }

    /**
     * {@return all rows of a table, or all for which its conditions hold}
     *
     * @param table the table's name
     */
    public static Extract all(String table) {
        return nothing().andAll(table);
    }

    /**
     * {@return the row with a key}
     *
     * @param table the table's name
     * @param key the key; the values of several columns in key order
     */
    public static Extract key(String table, Object... key) {
        return nothing().andKey(table, key);
    }

    /**
     * {@return a part of a table's rows, always the same ones: whether a row belongs to it depends on its key alone}
     *
     * @param table the table's name
     * @param share the part, above 0 and up to 1
     */
    public static Extract share(String table, double share) {
        return nothing().andShare(table, share);
    }

    private static Extract nothing() {
        return new Extract(Map.of(), List.of(), List.of(), List.of(), USUAL_MOST, Integer.MAX_VALUE, USUAL_TIMEOUT);
    }

    /**
     * {@return this extract with the first rows of another table}
     *
     * @param table the table's name
     * @param rows how many at most, at least 1
     */
    public Extract andRows(String table, int rows) {
        if (rows < 1) {
            throw new ZabbetException("At least one row of " + table + " has to be asked for; it was " + rows + ".");
        }
        return with(table, of(table).wanted(Optional.of(rows)));
    }

    /**
     * {@return this extract with all rows of another table}
     *
     * @param table the table's name
     */
    public Extract andAll(String table) {
        return with(table, of(table).wanted(Optional.empty()));
    }

    /**
     * {@return this extract with the row with a key}
     *
     * @param table the table's name
     * @param key the key; the values of several columns in key order
     */
    public Extract andKey(String table, Object... key) {
        return with(table, of(table).withKey(key.length == 1 ? key[0] : List.of(key)));
    }

    /**
     * {@return this extract with a part of another table's rows}
     *
     * @param table the table's name
     * @param share the part, above 0 and up to 1
     */
    public Extract andShare(String table, double share) {
        if (!(share > 0 && share <= 1)) {
            throw new ZabbetException(
                    "A share of " + table + " is above 0 and up to 1 (0.01 for 1 %); it was " + share + ".");
        }
        return with(table, of(table).shared(BigDecimal.valueOf(share)));
    }

    /**
     * {@return this extract, with a condition on the rows of a table that are asked for, or wanted below others}
     *
     * @param table the table's name
     * @param column the column's name
     * @param value a value, null, or a matcher such as {@code Expected.below(…)}
     */
    public Extract where(String table, String column, @Nullable Object value) {
        return with(table, of(table).withCondition(new Where(column, value)));
    }

    /**
     * {@return this extract, with a condition in SQL on the rows of a table that are asked for, or wanted below others}
     *
     * @param table the table's name
     * @param sql what stands behind WHERE; it reaches the database as it is
     */
    public Extract whereSql(String table, String sql) {
        return with(table, of(table).withSql(Words.notNull(sql, "sql", "Extract.whereSql")));
    }

    /**
     * {@return this extract, with another order in which the first rows of a table are taken, asked for or below others}
     *
     * @param table the table
     * @param columns columns to order by, a minus before one for descending
     */
    public Extract order(String table, String... columns) {
        return with(table, of(table).ordered(List.of(columns)));
    }

    /**
     * {@return this extract, with all rows of a table that refer to its rows}
     *
     * @param table the table; {@code table.column} for those of one reference; {@code *} for whatever refers to rows that were asked
     *     for or stand below them
     */
    public Extract below(String table) {
        return below(table, Optional.empty());
    }

    /**
     * {@return this extract, with some rows of a table that refer to its rows}
     *
     * @param table as for {@link #below(String)}
     * @param rows how many for each row that they refer to, at least 1
     */
    public Extract below(String table, int rows) {
        if (rows < 1) {
            throw new ZabbetException("At least one row of " + table + " below each; it was " + rows + ".");
        }
        return below(table, Optional.of(rows));
    }

    private Extract below(String table, Optional<Integer> rows) {
        Words.notNull(table, "table", "Extract.below");
        return new Extract(asked, plus(below, new Below(table, rows)), without, refs, most, depth, timeout);
    }

    /**
     * {@return this extract, with rows below others down to a depth only}
     *
     * @param steps how many references down from a row that was asked for, at least 1
     */
    public Extract depth(int steps) {
        if (steps < 1) {
            throw new ZabbetException("The depth is at least 1; it was " + steps + ".");
        }
        return new Extract(asked, below, without, refs, most, steps, timeout);
    }

    /**
     * {@return this extract without some columns: they are not read, and filled by a factory when the rows are loaded}
     *
     * <p>Of documents places can be left out: {@code "hut.amenities.contact"}. Names lead into every element of a list; with a position,
     * {@code stoves[0]}, that one is meant.
     *
     * @param columns columns with their tables, or places in their documents: {@code "stay.price"}, {@code "*.booked_at"}
     */
    public Extract without(String... columns) {
        List<String> all = new ArrayList<>(without);
        for (String column : columns) {
            all.add(requireColumn(Words.notNull(column, "column", "Extract.without")));
        }
        return new Extract(asked, below, all, refs, most, depth, timeout);
    }

    /**
     * {@return this extract, which follows references inside of documents}
     *
     * <p>The rows that the documents refer to come along, as those do that a foreign key leads to, and the documents hold their labels
     * in the place of keys.
     *
     * @param place the place with its table and column, {@code hut.amenities.wardenId} for example; names lead into every element of a
     *     list
     * @param table the table whose key stands there; its key is one column
     */
    public Extract ref(String place, String table) {
        Words.notNull(table, "table", "Extract.ref");
        requireColumn(Words.notNull(place, "place", "Extract.ref"));
        return new Extract(asked, below, without, plus(refs, new Ref(place, table)), most, depth, timeout);
    }

    /**
     * {@return this extract with another bound on the rows of each table; more of them are refused. Without it, 100,000}
     *
     * @param rows the bound, at least 1
     */
    public Extract most(int rows) {
        if (rows < 1) {
            throw new ZabbetException("The bound on the rows of a table is at least 1; it was " + rows + ".");
        }
        return new Extract(asked, below, without, refs, rows, depth, timeout);
    }

    /**
     * {@return this extract with another time after which a statement is given up. Without it, 30 seconds}
     *
     * @param longest the time, at least a second
     */
    public Extract timeout(Duration longest) {
        if (longest.toSeconds() < 1) {
            throw new ZabbetException("A statement has at least one second; it was " + longest + ".");
        }
        return new Extract(asked, below, without, refs, most, depth, longest);
    }

    /** A column is named with its table. */
    static String requireColumn(String text) {
        if (!ColumnPattern.isOne(text)) {
            throw new ZabbetException(
                    "'" + text + "' names no column. Write it with its table: guest.email, or *.email for"
                            + " those of all tables.");
        }
        return text;
    }

    private static <T> List<T> plus(List<T> some, T one) {
        return joined(some, List.of(one));
    }

    private static <T> List<T> joined(List<T> some, List<T> more) {
        List<T> all = new ArrayList<>(some);
        all.addAll(more);
        return all;
    }

    private Asked of(String table) {
        return asked.getOrDefault(Words.notNull(table, "table", "Extract"), Asked.NOTHING);
    }

    private Extract with(String table, Asked what) {
        Map<String, Asked> all = new LinkedHashMap<>(asked);
        all.put(table, what);
        return new Extract(all, below, without, refs, most, depth, timeout);
    }

    /** {@return what is asked of each table, by name as it was written} */
    public Map<String, Asked> asked() {
        return new LinkedHashMap<>(asked);
    }

    /** {@return the rows that are wanted below others} */
    public List<Below> below() {
        return below;
    }

    /** {@return the places in documents that hold keys of rows} */
    public List<Ref> refs() {
        return refs;
    }

    /** {@return the columns and places that are left out, as they were written} */
    public List<String> without() {
        return without;
    }

    /**
     * {@return whether a column is left out}
     *
     * @param table the table's name
     * @param column the column's name
     */
    public boolean leavesOut(String table, String column) {
        return without.stream().anyMatch(pattern -> ColumnPattern.matches(pattern, table + "." + column));
    }

    /** {@return how many rows of a table there may be} */
    public int most() {
        return most;
    }

    /** {@return how many references down rows are taken} */
    public int depth() {
        return depth;
    }

    /** {@return the time after which a statement is given up} */
    public Duration timeout() {
        return timeout;
    }
}
