package dev.zabbet.junit.internal;

import org.opentest4j.AssertionFailedError;
import org.opentest4j.IncompleteExecutionException;

/** Says in a failure on which stage it happened. */
final class PlacedFailure {
    private PlacedFailure() {}

    /**
     * Returns the failure with the stage in its message, for example "On MariaDB: stay holds 3 rows; 4 expected."; an
     * exception of the application's stays what it is, and gets a note beside it.
     */
    static Throwable of(Throwable failure, String place) {
        if (failure instanceof IncompleteExecutionException) {
            return failure;
        }
        if (failure instanceof AssertionError assertion) {
            return of(assertion, place);
        }
        failure.addSuppressed(new AssertionError("It was thrown " + place + "."));
        return failure;
    }

    static AssertionError of(AssertionError failure, String place) {
        String message = Character.toUpperCase(place.charAt(0)) + place.substring(1) + ": " + failure.getMessage();
        AssertionError placed = failure instanceof AssertionFailedError sides && sides.isExpectedDefined()
                ? new AssertionFailedError(message, sides.getExpected(), sides.getActual(), failure.getCause())
                : new AssertionFailedError(message, failure.getCause());
        placed.setStackTrace(failure.getStackTrace());
        for (Throwable suppressed : failure.getSuppressed()) {
            placed.addSuppressed(suppressed);
        }
        return placed;
    }
}
