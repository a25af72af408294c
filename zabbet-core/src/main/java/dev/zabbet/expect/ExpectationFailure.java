package dev.zabbet.expect;

import org.jspecify.annotations.Nullable;
import org.opentest4j.AssertionFailedError;

/**
 * An expectation that does not hold. Its message is the report; what was expected and what was found are set too, so that
 * a development environment can show them side by side.
 *
 * <p>The message has colours if the system property {@code zabbet.colour} is {@code always}; lines are as long as
 * {@code zabbet.width} allows, 100 cells by default.
 */
public final class ExpectationFailure extends AssertionFailedError {
    private static final long serialVersionUID = 1L;

    private final String plain;
    private final String coloured;
    private final @Nullable Long variation;

    /** What a development environment sets side by side. */
    record Sides(String expected, String found) {}

    ExpectationFailure(Sheet sheet, Sides sides, @Nullable Long variation) {
        super(message(sheet, variation), sides.expected(), sides.found());
        this.plain = sheet.plain();
        this.coloured = sheet.coloured();
        this.variation = variation;
    }

    /** One that stands for several. */
    ExpectationFailure(Sheet sheet, @Nullable Long variation) {
        super(message(sheet, variation));
        this.plain = sheet.plain();
        this.coloured = sheet.coloured();
        this.variation = variation;
    }

    private static String message(Sheet sheet, @Nullable Long variation) {
        boolean colours = "always".equals(System.getProperty("zabbet.colour"));
        return (colours ? sheet.coloured() : sheet.plain())
                + (variation == null ? "" : "\nVariation " + variation + ".\n");
    }

    /** Returns the report without colours, and without the variation that values were invented in. */
    public String plain() {
        return plain;
    }

    /** Returns the same with colours for a terminal (ECMA-48). */
    public String coloured() {
        return coloured;
    }

    @Nullable
    Long variation() {
        return variation;
    }
}
