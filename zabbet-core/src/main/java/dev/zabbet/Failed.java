package dev.zabbet;

/**
 * The footprint of an act that failed as it should.
 *
 * @param <X> what it threw
 */
public final class Failed<X extends Throwable> extends Footprint {
    private final X failure;

    Failed(Footprint footprint, X failure) {
        super(footprint);
        this.failure = failure;
    }

    /** {@return what the act threw} */
    public X failure() {
        return failure;
    }
}
