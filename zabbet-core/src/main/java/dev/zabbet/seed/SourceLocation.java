package dev.zabbet.seed;

/**
 * Where something stands in a file, for messages.
 *
 * @param where the file, line and column: {@code huts.yaml, line 7, column 5}; empty for what was made in code
 * @param line the line itself; empty if it is not known
 */
public record SourceLocation(String where, String line) {
    /** The place of what was made in code. */
    public static final SourceLocation NONE = new SourceLocation("", "");
}
