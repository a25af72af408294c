package dev.zabbet.row;

import java.util.AbstractList;
import java.util.List;
import org.opentest4j.AssertionFailedError;

/** Some rows, in an order. Immutable. */
public final class Rows extends AbstractList<Row> {
    private final String what;
    private final List<Row> rows;

    /**
     * @param what what the rows are, for a message: "rows added to stay"
     * @param rows the rows
     */
    public Rows(String what, List<Row> rows) {
        this.what = what;
        this.rows = List.copyOf(rows);
    }

    @Override
    public Row get(int index) {
        return rows.get(index);
    }

    @Override
    public int size() {
        return rows.size();
    }

    /**
     * {@return the only row}
     *
     * @throws AssertionError unless there is exactly one
     */
    public Row one() {
        if (rows.size() != 1) {
            throw new AssertionFailedError(
                    "There should be one of the " + what + "; there "
                            + (rows.isEmpty()
                                    ? "is none."
                                    : "are " + rows.size() + ":\n  " + rows.get(0) + "\n  " + rows.get(1)
                                            + (rows.size() > 2 ? "\n  and others" : "")),
                    "one row",
                    rows.size() + " rows");
        }
        return rows.get(0);
    }
}
