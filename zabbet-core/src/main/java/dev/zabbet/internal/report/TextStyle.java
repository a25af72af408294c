package dev.zabbet.internal.report;

/** What a part of a report is, and so the colour it has on a terminal (ECMA-48 SGR). */
enum TextStyle {
    PLAIN(""),
    /** The sentence that says what does not hold. */
    HEADLINE("1"),
    /** The name of a row. */
    NAME("1;36"),
    /** What was found. */
    FOUND("33"),
    /** What was expected. */
    EXPECTED("32"),
    /** Titles and remarks. */
    FAINT("2");

    private final String code;

    TextStyle(String code) {
        this.code = code;
    }

    String on(String text) {
        return code.isEmpty() || text.isBlank() ? text : "\u001b[" + code + "m" + text + "\u001b[0m";
    }
}
