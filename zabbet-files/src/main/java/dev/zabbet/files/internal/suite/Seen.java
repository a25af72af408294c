package dev.zabbet.files.internal.suite;

import java.util.Locale;

/** Whether tests look at what was written: the more is known, the later. */
public enum Seen {
    /** No act writes it. */
    NEVER_WRITTEN,
    /** It is written, and no expectation was asked about it. */
    WRITTEN,
    /** Expectations were asked, and hold just the same with another value. */
    UNSEEN,
    /** Tests read it by other means than expectations. */
    MAYBE_SEEN,
    /** An expectation does not hold with another value. */
    SEEN;

    /** What stands for the row as a whole among the columns of a table. */
    public static final String ROW = "(row)";

    /** What stands for one row more than an act stored. */
    public static final String ONE_MORE = "(one more)";

    /** Returns the word that stands for it in files: {@code maybe seen}. */
    public String word() {
        return name().toLowerCase(Locale.ROOT).replace('_', ' ');
    }

    /** Returns what a word stands for. */
    public static Seen of(String word) {
        return valueOf(word.toUpperCase(Locale.ROOT).replace(' ', '_'));
    }

    /** Returns the one that more is known of. */
    public Seen or(Seen other) {
        return compareTo(other) > 0 ? this : other;
    }
}
