package dev.zabbet.internal.mask;

import org.jspecify.annotations.Nullable;

/**
 * What is thought of a place.
 *
 * @param kind what its values are; null if they are not personal, or nobody knows
 * @param why how that is known, as a clause without a subject
 * @param undecided whether a person has to decide
 */
record Finding(@Nullable Personal kind, String why, boolean undecided) {
    static Finding masked(Personal kind, String why) {
        return new Finding(kind, why, false);
    }

    static Finding kept(String why) {
        return new Finding(null, why, false);
    }

    static Finding undecided(String why) {
        return new Finding(null, why, true);
    }

    boolean isMasked() {
        return kind != null;
    }
}
