package dev.zabbet.internal.fake;

import dev.zabbet.store.ConstraintException;

/** An object whose row has another version by now is saved or deleted; thrown on as the application's data access does. */
final class StaleObjectException extends Exception {
    private static final long serialVersionUID = 1L;

    private final ConstraintException refusal;
    private final Throwable usual;

    /**
     * @param refusal what a translation is given
     * @param usual what is thrown without one
     */
    StaleObjectException(ConstraintException refusal, Throwable usual) {
        super(refusal);
        this.refusal = refusal;
        this.usual = usual;
    }

    ConstraintException refusal() {
        return refusal;
    }

    Throwable usual() {
        return usual;
    }
}
