package dev.zabbet;

/**
 * Expectations that are written down elsewhere, for example in a row document. Called by {@link Stage#expect(Expectations)} and
 * {@link Footprint#expect(Expectations)}.
 */
public interface Expectations {
    /**
     * Expects what should be stored.
     *
     * @param stage the stage
     * @throws AssertionError if one does not hold; the report is of all that do not
     */
    void expectStored(Stage stage);

    /**
     * Expects what should have changed.
     *
     * @param stage the stage
     * @param footprint what the act left
     * @throws AssertionError if one does not hold
     */
    void expectChanged(Stage stage, Footprint footprint);
}
