package dev.zabbet.internal.check;

/** What a condition says about a value that would keep it. */
public sealed interface Suggestion {
    /** This value, or one next to it. */
    record Value(Object value) implements Suggestion {}

    /** A text, list or number of bytes of this length, or of one next to it. */
    record Length(int length) implements Suggestion {}

    /** A text that matches. */
    record Matching(Sampler sampler) implements Suggestion {}
}
