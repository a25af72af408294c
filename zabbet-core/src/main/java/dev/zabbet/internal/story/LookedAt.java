package dev.zabbet.internal.story;

import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * One thing that a test looked at: an expectation that held or did not, or rows that it was given to compare itself.
 *
 * @param line the line of the test; empty if it is not known
 * @param text what it looked at, in words
 * @param kind what became of it
 */
public record LookedAt(Optional<SourceLine> line, String text, Kind kind) {
    /** What a test did with what it looked at. */
    public enum Kind {
        /** An expectation that held. */
        HELD,
        /** An expectation that did not hold. */
        FAILED,
        /** Rows were handed out or read; what the test did with them is not known. */
        READ
    }

    LookedAt(@Nullable SourceLine line, String text, Kind kind) {
        this(Optional.ofNullable(line), text, kind);
    }
}
