package dev.zabbet.error;

import java.util.Optional;
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

    /**
     * Holds the report of one expectation.
     *
     * @param plain the report without colours
     * @param coloured the report with colours
     * @param expected what was expected, for a comparison side by side
     * @param found what was found
     * @param variation the variation that values were invented in; null if it does not matter
     */
    public ExpectationFailure(String plain, String coloured, String expected, String found, @Nullable Long variation) {
        super(message(plain, coloured, variation), expected, found);
        this.plain = plain;
        this.coloured = coloured;
        this.variation = variation;
    }

    /**
     * Holds the reports of several expectations.
     *
     * @param plain the reports without colours
     * @param coloured the reports with colours
     * @param variation the variation that values were invented in; null if it does not matter
     */
    public ExpectationFailure(String plain, String coloured, @Nullable Long variation) {
        super(message(plain, coloured, variation));
        this.plain = plain;
        this.coloured = coloured;
        this.variation = variation;
    }

    private static String message(String plain, String coloured, @Nullable Long variation) {
        boolean colours = "always".equals(System.getProperty("zabbet.colour"));
        return (colours ? coloured : plain) + (variation == null ? "" : "\nVariation " + variation + ".\n");
    }

    /** {@return the report without colours, and without the variation that values were invented in} */
    public String plain() {
        return plain;
    }

    /** {@return the same with colours for a terminal (ECMA-48)} */
    public String coloured() {
        return coloured;
    }

    /** {@return the variation that the values were invented in; empty if it does not matter} */
    public Optional<Long> variation() {
        return Optional.ofNullable(variation);
    }
}
