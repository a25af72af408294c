package dev.zabbet.internal.story;

import java.util.Optional;

/**
 * Something that a test began or arranged, and that came to nothing.
 *
 * @param kind what it is
 * @param line the line of the test; empty if it is not known
 * @param text what it is, in a sentence
 */
public record LooseEnd(Kind kind, Optional<SourceLine> line, String text) {
    /** What kinds there are. */
    public enum Kind {
        /** An act whose footprint nobody asked for, and after which nothing was looked at. */
        ACT,
        /** An expectation that was begun and says nothing. */
        EXPECTATION,
        /** Calls that were picked out, and of which nothing is said. */
        CALLS,
        /** A rule that no call met. */
        RULE,
        /** A rule whose answer only the test itself was given. */
        ANSWER,
        /** A footprint that was asked for, without saying that it is all; no more than a hint. */
        FOOTPRINT
    }
}
