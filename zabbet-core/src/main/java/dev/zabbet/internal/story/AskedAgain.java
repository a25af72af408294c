package dev.zabbet.internal.story;

/**
 * Tells the code that reports failures that an expectation is only being asked again: the answer is all that counts, and a
 * report would cost more than the question.
 */
public final class AskedAgain {
    private static final ThreadLocal<Boolean> NOW = ThreadLocal.withInitial(() -> false);

    /** What is thrown in the place of a report. */
    private static final class DoesNotHoldError extends AssertionError {
        private static final long serialVersionUID = 1;

        @Override
        public synchronized Throwable fillInStackTrace() {
            return this; // nobody reads where it comes from
        }
    }

    private AskedAgain() {}

    /** Ends an expectation that does not hold, if it is only asked again; called before a report is made. */
    public static void requireReport() {
        if (NOW.get()) {
            throw new DoesNotHoldError();
        }
    }

    /** Tells whether an expectation does not hold. */
    static boolean doesNotHold(Runnable expectation) {
        NOW.set(true);
        try {
            expectation.run();
            return false;
        } catch (AssertionError e) {
            return true;
        } catch (RuntimeException e) {
            return false; // it cannot be asked of such rows
        } finally {
            NOW.set(false);
        }
    }
}
