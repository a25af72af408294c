package dev.zabbet;

import dev.zabbet.internal.story.RecordedAct;
import dev.zabbet.internal.story.Stories;
import dev.zabbet.internal.story.Story;
import dev.zabbet.internal.text.Words;
import dev.zabbet.store.Change;
import dev.zabbet.store.ConstraintException;
import dev.zabbet.store.Store;
import dev.zabbet.store.Watch;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.opentest4j.AssertionFailedError;
import org.opentest4j.IncompleteExecutionException;

/** A stage as far as code under test is run: acts, and what they leave. */
abstract sealed class StageActing extends StageFaking permits Stage {
    final List<Footprint> footprints;

    StageActing(Store store, StageClock clock, long variation) {
        super(store, clock, variation);
        footprints = new ArrayList<>();
    }

    /** Another view of the same rows. */
    StageActing(StageActing like, long variation, @Nullable String role) {
        super(like, variation, role);
        footprints = like.footprints;
    }

    /** An act that goes on: what changes is noticed, and told to the story of the test if there is one. */
    private final class Ongoing implements AutoCloseable {
        private final Watch watch;
        private final @Nullable RecordedAct told;

        Ongoing(boolean failing) {
            watch = store.watch();
            Story story = Stories.of(store);
            told = story == null ? null : story.act(failing);
            if (story != null) {
                story.of(store.schema());
            }
        }

        /** Returns what the act has left; nothing where it was taken away. */
        Footprint footprint() {
            List<Change> changes = List.copyOf(watch.changes());
            if (told == null) {
                return footprint(changes);
            }
            told.left(changes);
            return footprint(told.isTakenAway() && !changes.isEmpty() && takenAway(told) ? List.of() : changes);
        }

        private Footprint footprint(List<Change> changes) {
            return new Footprint((Stage) StageActing.this, changes, told);
        }

        private boolean takenAway(RecordedAct act) {
            try {
                watch.takeBack();
                return true;
            } catch (RuntimeException e) {
                act.notTakenAway(String.valueOf(e.getMessage()));
                return false;
            }
        }

        /** Takes note of what the code threw; what it left is taken away all the same, where that is asked for. */
        void threw(Throwable failure) {
            if (told == null) {
                return;
            }
            told.threw(failure);
            if (told.isTakenAway()) {
                try {
                    footprint();
                } catch (RuntimeException e) {
                    told.notTakenAway(String.valueOf(e.getMessage()));
                }
            }
        }

        @Override
        public void close() {
            watch.close();
            if (told != null) {
                told.ended();
            }
        }
    }

    /**
     * Runs code under test that has to be denied by the rights of its role: what it throws, or a cause of that, has the
     * SQLState 42501.
     *
     * @param code the code under test
     * @return what it threw, and what it left nevertheless
     * @throws AssertionError if it is not denied
     */
    public Failed<Throwable> actDenied(Action code) {
        Failed<Throwable> failed = actFailing(Throwable.class, code);
        for (Throwable at = failed.failure(); at != null; at = at.getCause()) {
            boolean denied = at instanceof ConstraintException refusal
                    ? refusal.sqlState().equals(ConstraintException.DENIED)
                    : at instanceof SQLException sql && ConstraintException.DENIED.equals(sql.getSQLState());
            if (denied) {
                return failed;
            }
        }
        throw new AssertionFailedError(
                "The act should have been denied by the rights of its role; it threw " + failed.failure() + ".",
                "SQLState " + ConstraintException.DENIED,
                failed.failure().toString(),
                failed.failure());
    }

    /**
     * Runs code under test and returns its footprint: what it left. Exceptions of the code are rethrown.
     *
     * @param code the code under test
     * @return what the code left
     */
    public Footprint act(Action code) {
        Words.notNull(code, "code", "Stage.act");
        return act(() -> {
            code.run();
            return Boolean.TRUE;
        });
    }

    /**
     * Runs code under test and returns its footprint together with its result. Exceptions of the code are rethrown.
     *
     * @param <V> what the code returns
     * @param code the code under test
     * @return what the code left
     */
    public <V extends @Nullable Object> Acted<V> act(Work<? extends V> code) {
        Words.notNull(code, "code", "Stage.act");
        try (Ongoing act = new Ongoing(false)) {
            try {
                V value = code.run();
                store.flush();
                return new Acted<>(noted(act.footprint()), value);
            } catch (Throwable e) {
                store.discard();
                act.threw(e);
                throw StageActing.<RuntimeException>asIs(e);
            }
        }
    }

    private Footprint noted(Footprint footprint) {
        footprints.add(footprint);
        return footprint;
    }

    /** {@return the footprints of the acts since the stage was opened or last rewound, in order} */
    public List<Footprint> footprints() {
        return List.copyOf(footprints);
    }

    /**
     * Runs code under test that has to fail, and returns its exception together with what it left nevertheless.
     *
     * @param <X> the type of the failure
     * @param type what it has to throw, or a supertype of that
     * @param code the code under test
     * @return what the code threw, and what it left nevertheless
     * @throws AssertionError if it throws nothing, or something else; the report names what was thrown, which is also the
     *     cause, and what the act left
     */
    public <X extends Throwable> Failed<X> actFailing(Class<X> type, Action code) {
        Words.notNull(type, "type", "Stage.actFailing");
        Words.notNull(code, "code", "Stage.actFailing");
        try (Ongoing act = new Ongoing(true)) {
            try {
                code.run();
                store.flush();
            } catch (Throwable e) {
                store.discard();
                if (type.isInstance(e)) {
                    return new Failed<>(noted(act.footprint()), type.cast(e));
                }
                if (e instanceof VirtualMachineError || e instanceof IncompleteExecutionException) {
                    act.threw(e);
                    throw StageActing.<RuntimeException>asIs(e); // the test's own end, not the act's
                }
                throw thrownOtherwise(type, act.footprint(), e);
            }
            throw thrownOtherwise(type, act.footprint(), null);
        }
    }

    private static AssertionError thrownOtherwise(Class<?> type, Footprint left, @Nullable Throwable thrown) {
        String instead = thrown == null
                ? "nothing"
                : thrown.getClass().getSimpleName() + (thrown.getMessage() == null ? "" : ": " + thrown.getMessage());
        return left.expect()
                .failure(
                        "The act should have thrown " + type.getSimpleName() + "; it threw " + instead
                                + (instead.endsWith(".") ? "" : "."),
                        type.getName(),
                        thrown == null ? "(nothing thrown)" : thrown.toString(),
                        thrown);
    }

    @SuppressWarnings({"unchecked", "TypeParameterUnusedInFormals"})
    private static <X extends Throwable> X asIs(Throwable e) throws X {
        throw (X) e;
    }
}
