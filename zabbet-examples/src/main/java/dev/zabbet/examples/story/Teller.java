package dev.zabbet.examples.story;

import dev.zabbet.row.Row;
import dev.zabbet.store.Change;
import java.util.List;

/** Whoever tells a story to somebody. Called in the order in which things happen. */
public interface Teller {
    /** A new chapter begins. */
    void chapter(String title);

    /** Java code that is about to run. */
    void code(String code);

    /** Rows that are stored. */
    void rows(String table, List<String> columns, List<Row> rows);

    /** What an act left. */
    void changes(List<Change> changes);

    /** An expectation that holds. */
    void held(String sentence);

    /** An expectation that does not hold, with its report. */
    void failed(AssertionError failure);

    /** A remark. */
    void remark(String sentence);
}
