package dev.zabbet.serve.internal;

import dev.zabbet.Footprint;
import dev.zabbet.Stage;
import dev.zabbet.serve.ServeSettings;
import dev.zabbet.store.RewindPoint;
import dev.zabbet.store.Watch;
import java.lang.System.Logger;
import java.lang.System.Logger.Level;
import java.time.Duration;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.function.BiConsumer;
import org.jspecify.annotations.Nullable;

/**
 * A stage and the thread that does all with it, one request after another. While an act goes on, the thread is inside of {@link
 * Stage#act} and does there what requests ask for, until one ends the act.
 */
final class ServedStage {
    private static final Logger LOG = System.getLogger("dev.zabbet.serve");

    private final String id;
    private final long variation;
    private final StageOpener opener;
    private final ServeSettings settings;
    private final BiConsumer<ServedStage, String> onEnd;
    private final BlockingQueue<Step> steps = new LinkedBlockingQueue<>();
    private final CompletableFuture<Void> begun = new CompletableFuture<>();
    private final CompletableFuture<Void> ended = new CompletableFuture<>();
    private final Thread thread;

    // of the stage's thread alone
    private final Map<String, RewindPoint> points = new LinkedHashMap<>();
    private @Nullable Stage usual;
    private @Nullable Stage stage;
    private @Nullable RewindPoint start;
    private @Nullable Footprint last;
    private @Nullable String closing;
    private @Nullable CompletableFuture<Object> beginning;
    private @Nullable CompletableFuture<Object> ending;
    private boolean acting;
    private boolean abandoned;

    private volatile String url = "";
    private volatile String database = "";

    /** One request's work; it gives its answer itself, some of it later. */
    private interface Step {
        void run();
    }

    /** What a request has done in the stage's thread. */
    interface StageWork {
        Object run(Stage stage) throws InterruptedException;
    }

    /** Ends an act of which nobody wants to know what it left. */
    private static final class AbandonedException extends RuntimeException {
        private static final long serialVersionUID = 1L;

        AbandonedException() {
            super(null, null, false, false);
        }
    }

    /**
     * Makes a stage that {@link #begin} opens.
     *
     * @param variation the variation that it begins with, and has again when it is rewound
     */
    ServedStage(
            String id,
            long variation,
            StageOpener opener,
            ServeSettings settings,
            BiConsumer<ServedStage, String> onEnd) {
        this.id = id;
        this.variation = variation;
        this.opener = opener;
        this.settings = settings;
        this.onEnd = onEnd;
        this.thread = new Thread(this::live, "zabbet-stage-" + id);
        thread.setDaemon(true);
    }

    String id() {
        return id;
    }

    String url() {
        return url;
    }

    String database() {
        return database;
    }

    boolean hasEnded() {
        return ended.isDone();
    }

    /** Opens the stage. */
    void begin() {
        thread.start();
        answer(begun, null); // opening has time limits of its own
    }

    private void live() {
        try {
            opener.await(settings.patience());
        } catch (InterruptedException | RuntimeException e) {
            begun.completeExceptionally(e);
            return;
        }
        try {
            OpenedStage opened = opener.open();
            url = opened.url();
            try (Stage own = opened.stage()) {
                database = own.store().description();
                usual = own.inVariation(variation);
                stage = usual;
                start = own.mark();
                begun.complete(null);
                work();
                own.rewind(start);
            }
        } catch (Throwable e) {
            if (!begun.completeExceptionally(e)) {
                LOG.log(Level.WARNING, "Stage {0} on {1} could not be rewound: {2}", id, database, e.getMessage());
                closing = closing == null ? "it broke: " + e.getMessage() : closing;
            }
        } finally {
            opener.done();
            onEnd.accept(this, closing == null ? "it could not be opened" : closing);
            ended.complete(null);
            Step left;
            while ((left = steps.poll()) != null) {
                left.run(); // is refused, since the stage has ended
            }
        }
    }

    /** Does what requests ask for until the stage is to be closed. */
    private void work() throws InterruptedException {
        while (closing == null) {
            next();
            CompletableFuture<Object> asked = beginning;
            if (asked != null) {
                beginning = null;
                act(asked);
            }
        }
    }

    private void next() throws InterruptedException {
        Step step = steps.poll(settings.idle().toMillis(), TimeUnit.MILLISECONDS);
        if (step != null) {
            step.run();
        } else {
            closing =
                    "nothing was asked of it for " + shown(settings.idle()) + ", so that its client was taken for gone";
        }
    }

    private static String shown(Duration time) {
        return time.toMillis() % 1000 == 0 ? time.toSeconds() + " seconds" : time.toMillis() + " milliseconds";
    }

    private void act(CompletableFuture<Object> answer) {
        acting = true;
        abandoned = false;
        try {
            Footprint left = Objects.requireNonNull(stage).act(() -> {
                answer.complete(id);
                while (ending == null) {
                    next();
                    if (closing != null || abandoned) {
                        throw new AbandonedException();
                    }
                }
            });
            last = left;
            Objects.requireNonNull(ending).complete(left);
        } catch (AbandonedException e) {
            LOG.log(Level.DEBUG, "An act of stage {0} was given up", id);
        } catch (Throwable e) {
            if (!answer.completeExceptionally(e) && ending != null) {
                ending.completeExceptionally(e);
            }
        } finally {
            acting = false;
            ending = null;
        }
    }

    // --- what requests ask for
    // -----------------------------------------------------------------------------------------

    /** Does something with the stage; outside of an act, unless it only looks. */
    Object call(boolean onlyLooks, StageWork work) {
        CompletableFuture<Object> answer = new CompletableFuture<>();
        ask(answer, () -> {
            if (acting && !onlyLooks) {
                throw acting("End it by POST /stages/" + id + "/act/end, or give it up by rewinding.");
            }
            answer.complete(work.run(Objects.requireNonNull(stage)));
        });
        return answer(answer, settings.patience());
    }

    private static Problem acting(String how) {
        return new Problem(409, "An act is going on", "An act of this stage has begun and not ended. " + how);
    }

    /** Runs in the stage's thread, inside of an act if one goes on. */
    private interface Work {
        void run() throws InterruptedException;
    }

    private void ask(CompletableFuture<Object> answer, Work work) {
        steps.add(() -> {
            try {
                if (ended.isDone() || closing != null) {
                    throw new Problem(404, "No such stage", "Stage " + id + " is closed.");
                }
                work.run();
            } catch (Throwable e) {
                answer.completeExceptionally(e);
            }
        });
        if (ended.isDone()) {
            answer.completeExceptionally(new Problem(404, "No such stage", "Stage " + id + " is closed."));
        }
    }

    void beginAct() {
        CompletableFuture<Object> answer = new CompletableFuture<>();
        ask(answer, () -> {
            if (acting || beginning != null) {
                throw acting("End it first, by POST /stages/" + id + "/act/end.");
            }
            beginning = answer;
        });
        answer(answer, settings.patience());
    }

    /** What an act left, and whether nothing changed any more when it was ended. */
    record Ended(Footprint footprint, boolean quiet) {}

    /**
     * Ends an act.
     *
     * @param quiet for how long nothing may have changed before; null if that does not matter
     * @param atMost how long to wait for that
     */
    Ended endAct(@Nullable Duration quiet, Duration atMost) {
        CompletableFuture<Boolean> wasQuiet = new CompletableFuture<>();
        CompletableFuture<Object> answer = new CompletableFuture<>();
        ask(answer, () -> {
            if (!acting) {
                throw new Problem(
                        409,
                        "No act is going on",
                        "POST /stages/" + id + "/act begins one; there is none to be ended.");
            }
            wasQuiet.complete(quiet == null || awaitQuiet(quiet, atMost));
            ending = answer;
        });
        Footprint left = (Footprint) answer(answer, settings.patience().plus(atMost));
        return new Ended(left, wasQuiet.join());
    }

    private boolean awaitQuiet(Duration quiet, Duration atMost) throws InterruptedException {
        long end = System.nanoTime() + atMost.toNanos();
        while (true) {
            try (Watch watch = Objects.requireNonNull(stage).store().watch()) {
                Thread.sleep(quiet.toMillis());
                if (watch.changes().isEmpty()) {
                    return true;
                }
            }
            if (System.nanoTime() - end >= 0) {
                return false;
            }
        }
    }

    Footprint footprint() {
        CompletableFuture<Object> answer = new CompletableFuture<>();
        ask(answer, () -> answer.complete(requireLast()));
        return (Footprint) answer(answer, settings.patience());
    }

    /** For the stage's thread: what the last act left. */
    Footprint requireLast() {
        if (last == null) {
            throw new Problem(
                    409,
                    "No act has ended",
                    "There is no footprint yet: none of an act that was begun and ended since the stage was opened or"
                            + " rewound.");
        }
        return last;
    }

    /** Notes the present state under a name. */
    void mark(String name) {
        call(false, own -> {
            points.remove(name);
            points.put(name, own.mark());
            return name;
        });
    }

    /**
     * Rewinds to a point, or to how the stage was opened; an act that goes on is given up.
     *
     * @return whether there was one
     */
    boolean rewind(@Nullable String name) {
        CompletableFuture<Object> answer = new CompletableFuture<>();
        ask(answer, () -> {
            if (name != null && !points.containsKey(name)) {
                throw new Problem(
                        422,
                        "No such point",
                        "There is no point of that name. "
                                + (points.isEmpty()
                                        ? "None was set: POST /stages/" + id + "/points sets one."
                                        : "Set are: " + String.join(", ", points.keySet()) + "."));
            }
            if (acting) {
                abandoned = true;
                steps.add(() -> rewind(name, true, answer));
            } else {
                rewind(name, false, answer);
            }
        });
        return (Boolean) answer(answer, settings.patience());
    }

    private void rewind(@Nullable String name, boolean gaveUp, CompletableFuture<Object> answer) {
        try {
            Stage own = Objects.requireNonNull(usual);
            own.rewind(Objects.requireNonNull(name == null ? start : points.get(name)));
            stage = own;
            last = null;
            if (name == null) {
                points.clear();
            } else {
                boolean later = false;
                for (String one : List.copyOf(points.keySet())) {
                    if (later) {
                        points.remove(one);
                    }
                    later |= one.equals(name);
                }
            }
            answer.complete(gaveUp);
        } catch (Throwable e) {
            answer.completeExceptionally(e);
        }
    }

    void setVariation(long other) {
        call(false, own -> {
            stage = own.inVariation(other);
            return other;
        });
    }

    boolean isActing() {
        return acting;
    }

    List<String> points() {
        return List.copyOf(points.keySet());
    }

    void beginToClose() {
        steps.add(() -> closing = closing == null ? "its client closed it" : closing);
    }

    /** Rewinds the stage and closes it; returns when that is done. */
    void close() {
        beginToClose();
        answer(ended, settings.patience().plusSeconds(30));
    }

    private <T> T answer(CompletableFuture<T> future, @Nullable Duration patience) {
        try {
            return patience == null ? future.get() : future.get(patience.toMillis(), TimeUnit.MILLISECONDS);
        } catch (ExecutionException e) {
            if (e.getCause() instanceof RuntimeException known) {
                throw known;
            }
            if (e.getCause() instanceof Error known) {
                throw known;
            }
            throw new IllegalStateException(e.getCause());
        } catch (TimeoutException e) {
            throw new Problem(
                    504,
                    "It takes too long",
                    "Stage " + id + " has not answered within " + shown(Objects.requireNonNull(patience))
                            + ". It goes on with what was asked; ask for the same again, or close the stage.");
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new Problem(503, "The server is being stopped", "The answer was not waited for.");
        }
    }
}
