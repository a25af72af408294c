package dev.zabbet.junit.internal;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.story.RecordedAct;
import dev.zabbet.internal.story.Story;
import java.util.List;
import java.util.Optional;
import org.opentest4j.IncompleteExecutionException;

/**
 * What a counterproof says of a test.
 *
 * @param kind what it is
 * @param why why there is no verdict, in a sentence; empty if there is one
 */
record Verdict(Kind kind, String why) {
    enum Kind {
        /** The test notices that nothing of what its acts stored is left. */
        NOTICED,
        /** It passes all the same. */
        HOLLOW,
        /** It fails although nothing was taken away before: for reasons of its own. */
        FAILS,
        /** It cannot be told, or need not be. */
        NONE
    }

    /**
     * Judges a test that has run as a counterproof.
     *
     * @param resultOnly why only its result counts; empty if what is stored does
     */
    static Verdict of(Story story, Optional<String> resultOnly) {
        Throwable failure = story.failure().orElse(null);
        if (failure instanceof IncompleteExecutionException) {
            return none("An assumption ended it: " + failure.getMessage());
        }
        List<RecordedAct> storing = story.storing();
        Optional<RecordedAct> throwing = failure == null ? Optional.empty() : thrownInside(story, failure);
        boolean nothingWasGone =
                storing.isEmpty() || throwing.filter(act -> isFirst(story, act)).isPresent();
        if (failure != null && nothingWasGone) {
            return new Verdict(Kind.FAILS, "It fails also where nothing is taken away: " + failure);
        }
        if (storing.isEmpty()) {
            return none(story.acts().isEmpty() ? "It has no act." : "Its acts store nothing.");
        }
        Optional<RecordedAct> kept =
                storing.stream().filter(act -> act.trouble().isPresent()).findFirst();
        if (kept.isPresent()) {
            return none("What the " + name(kept.get()) + " stored could not be taken away: "
                    + kept.get().trouble().orElseThrow());
        }
        if (throwing.isPresent()) {
            return none("Its " + name(throwing.get()) + " throws since what an earlier act stored is gone: " + failure);
        }
        if (failure instanceof ZabbetException) {
            return none("What it does between its acts needs what an earlier one stored: " + failure.getMessage());
        }
        if (failure != null) {
            return new Verdict(Kind.NOTICED, "");
        }
        return resultOnly.map(why -> none("Only its result counts: " + why)).orElse(new Verdict(Kind.HOLLOW, ""));
    }

    /** Finds the act whose code threw what made the test fail; none if the failure is of the test's own making. */
    private static Optional<RecordedAct> thrownInside(Story story, Throwable failure) {
        return story.acts().stream()
                .filter(act ->
                        act.thrown().filter(thrown -> isIn(thrown, failure)).isPresent())
                .findFirst();
    }

    private static boolean isIn(Throwable sought, Throwable failure) {
        Throwable at = failure;
        for (int depth = 0; at != null && depth < 20; depth++) {
            if (at == sought) {
                return true;
            }
            at = at.getCause();
        }
        return false;
    }

    /** Tells whether no act before this one stored anything. */
    private static boolean isFirst(Story story, RecordedAct act) {
        return story.acts().stream().takeWhile(earlier -> earlier != act).allMatch(earlier -> earlier.changes()
                .isEmpty());
    }

    private static Verdict none(String why) {
        return new Verdict(Kind.NONE, why);
    }

    static String name(RecordedAct act) {
        return "act" + act.line().map(line -> " at " + line).orElse("");
    }
}
