package dev.zabbet.internal.story;

import dev.zabbet.internal.value.MixedVariation;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Change;
import dev.zabbet.store.Load;
import dev.zabbet.store.Store;
import java.lang.System.Logger.Level;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.atomic.AtomicInteger;
import org.jspecify.annotations.Nullable;

/** What one run of a test did with its stage and looked at. Thread-safe. */
public final class Story {
    private static final System.Logger LOG = System.getLogger("dev.zabbet.story");

    private final Class<?> testClass;
    private final boolean counterproof;
    private final List<RecordedAct> acts = new ArrayList<>();
    private final List<LookedAt> looks = new ArrayList<>();
    private final Set<Begun> begun = new LinkedHashSet<>();
    private final List<ToldRule> rules = new ArrayList<>();
    private final Map<String, Integer> arranged = new LinkedHashMap<>();
    private @Nullable Schema schema;
    private @Nullable MixedVariation mixed;
    private long ownVariation;
    private boolean readsUnnoticed;
    private final AtomicInteger acting = new AtomicInteger();
    private final @Nullable UnseenValues values;
    private @Nullable Throwable failure;

    /**
     * @param testClass the class of the test, whose lines the story names
     * @param counterproof whether what acts store is taken away as soon as they end; then nothing is asked again
     * @param asksAgain whether expectations that hold are asked again, of rows in which a value is another
     */
    public Story(Class<?> testClass, boolean counterproof, boolean asksAgain) {
        this.testClass = testClass;
        this.counterproof = counterproof;
        this.values = asksAgain && !counterproof ? new UnseenValues() : null;
    }

    /** Something that a test begins and has to end: an expectation, or what is to be said of calls. */
    public static final class Begun {
        private final LooseEnd.Kind kind;
        private final @Nullable SourceLine line;
        private final String text;
        private volatile boolean ended;

        private Begun(LooseEnd.Kind kind, @Nullable SourceLine line, String text) {
            this.kind = kind;
            this.line = line;
            this.text = text;
        }

        /** Takes note that it was ended. */
        public void ended() {
            ended = true;
        }

        private LooseEnd looseEnd() {
            return new LooseEnd(kind, Optional.ofNullable(line), text + " is begun, and nothing is expected of it.");
        }
    }

    /** A rule for calls that a test makes and expects to be met. Thread-safe. */
    public static final class ToldRule {
        private final Story story;
        private final @Nullable SourceLine line;
        private final String text;
        private final boolean answers;
        private volatile boolean met;
        private volatile boolean metByCode;

        private ToldRule(Story story, @Nullable SourceLine line, String text, boolean answers) {
            this.story = story;
            this.line = line;
            this.text = text;
            this.answers = answers;
        }

        /** Takes note that a call met it. */
        public void met() {
            met = true;
            metByCode |= story.isActing();
        }
    }

    /**
     * Takes note of a rule that the test makes.
     *
     * @param text the rule, in words
     * @param answers whether it gives an answer in the place of the fake
     */
    public ToldRule rule(String text, boolean answers) {
        ToldRule rule = new ToldRule(this, line(), text, answers);
        synchronized (this) {
            rules.add(rule);
        }
        return rule;
    }

    /** Says that the test may read what is stored in ways that are not noticed, so that nothing can be said to be unseen. */
    public synchronized void readsUnnoticed() {
        readsUnnoticed = true;
    }

    /** Says which variation the test's stage has by itself; views of it in others keep theirs. */
    public synchronized void ownVariation(long variation) {
        ownVariation = variation;
    }

    /** Has the test run in a variation. */
    public synchronized void mix(MixedVariation variation) {
        mixed = variation;
    }

    /** Returns the number that a stage in a variation draws values by. */
    public synchronized long drawn(long variation) {
        return mixed == null || variation != ownVariation ? variation : mixed.number();
    }

    /** Returns the number that is told of a stage in a variation. */
    public synchronized long shown(long variation) {
        return mixed == null || variation != ownVariation ? variation : mixed.base();
    }

    /** Returns whether what acts store is taken away as soon as they end. */
    public boolean isCounterproof() {
        return counterproof;
    }

    /** Stores rows, and takes note of them if the test does that rather than the code under test. */
    public static void arrange(Store store, Load load) {
        store.store(load);
        Story story = Stories.of(store);
        if (story != null && !story.isActing()) {
            synchronized (story) {
                load.counts().forEach((table, rows) -> story.arranged.merge(table, rows, Integer::sum));
            }
        }
    }

    /** Takes note of the tables of the stage. */
    public synchronized void of(Schema tables) {
        schema = tables;
    }

    /** Returns the tables of the stage; empty if the test has not used one. */
    public synchronized Optional<Schema> schema() {
        return Optional.ofNullable(schema);
    }

    /** Returns how many rows of which table the test has stored outside of acts. */
    public synchronized Map<String, Integer> arranged() {
        return new LinkedHashMap<>(arranged);
    }

    /** Begins an act of the test. */
    public RecordedAct act(boolean failing) {
        RecordedAct act = new RecordedAct(this, line(), failing, counterproof);
        synchronized (this) {
            acts.add(act);
        }
        acting.incrementAndGet();
        return act;
    }

    void ended(RecordedAct act) {
        acting.decrementAndGet();
        synchronized (this) {
            if (values != null) {
                values.acted(act);
                if (readsUnnoticed) {
                    values.read(null);
                }
            }
        }
    }

    /** Tells whether code under test is running, as far as acts say. */
    public boolean isActing() {
        return acting.get() > 0;
    }

    /** Begins something that the test has to end, or else it is a loose end; told as it was written: {@code expect("stay")}. */
    public Begun begin(LooseEnd.Kind kind, String text) {
        Begun one = new Begun(kind, line(), text);
        synchronized (this) {
            begun.add(one);
        }
        return one;
    }

    /**
     * Runs an expectation of the test, and takes note of what becomes of it.
     *
     * @param text what is expected, in words
     * @throws AssertionError if it does not hold
     */
    public void expect(String text, Runnable expectation) {
        SourceLine at = line();
        looked();
        try {
            expectation.run();
            add(new LookedAt(at, text, LookedAt.Kind.HELD));
        } catch (AssertionError e) {
            add(new LookedAt(at, text, LookedAt.Kind.FAILED));
            throw e;
        }
    }

    /**
     * Takes note that the test itself reads what is stored; what it does with that is not known.
     *
     * @param table whose rows it reads; null if it may be those of any
     */
    public void reads(String text, @Nullable Table table) {
        looked();
        synchronized (this) {
            if (values != null) {
                values.read(table);
            }
        }
        SourceLine at = line();
        LookedAt look = new LookedAt(at, text, LookedAt.Kind.READ);
        synchronized (this) {
            if (looks.isEmpty() || !looks.get(looks.size() - 1).equals(look)) {
                looks.add(look);
            }
        }
    }

    private synchronized void looked() {
        acts.forEach(RecordedAct::lookedAfter);
    }

    private synchronized void add(LookedAt look) {
        looks.add(look);
    }

    /** Takes note of the first thing that made the test fail. */
    public synchronized void failed(Throwable thrown) {
        if (failure == null) {
            failure = thrown;
        }
    }

    /** Takes over what was told before the test began: acts that belong to each test of a class. */
    public void continues(Story before) {
        List<RecordedAct> earlier = before.acts();
        synchronized (this) {
            acts.addAll(0, earlier);
            if (values != null) {
                earlier.forEach(values::acted);
            }
        }
    }

    /** Returns the acts, in the order in which they began. */
    public synchronized List<RecordedAct> acts() {
        return List.copyOf(acts);
    }

    /** Returns the acts that stored something, as net effect. */
    public List<RecordedAct> storing() {
        return acts().stream().filter(act -> !act.changes().isEmpty()).toList();
    }

    /** Returns what the test looked at, in order. */
    public synchronized List<LookedAt> looks() {
        return List.copyOf(looks);
    }

    public synchronized Optional<Throwable> failure() {
        return Optional.ofNullable(failure);
    }

    /** Returns what the test began or arranged, and what came to nothing. Makes sense once the test has passed. */
    public synchronized List<LooseEnd> looseEnds() {
        List<LooseEnd> ends = new ArrayList<>();
        for (RecordedAct act : acts) {
            boolean result = act.isValueAsked() || act.isFailing();
            boolean stored = !act.changes().isEmpty();
            if (!act.isFootprintAsked() && !act.isLookedAfter() && (stored || !result)) {
                ends.add(new LooseEnd(
                        LooseEnd.Kind.ACT,
                        act.line(),
                        stored
                                ? "Nobody asks what the act left, and nothing is looked at after it."
                                : "The act left nothing, and nobody asks for that."));
            }
        }
        acts.stream()
                .filter(RecordedAct::isPartExpected)
                .forEach(act -> ends.add(new LooseEnd(
                        LooseEnd.Kind.FOOTPRINT,
                        act.line(),
                        "Expected without nothingElse(): what else the act leaves would not be noticed.")));
        begun.stream().filter(one -> !one.ended).forEach(one -> ends.add(one.looseEnd()));
        for (ToldRule rule : rules) {
            Optional<SourceLine> line = Optional.ofNullable(rule.line);
            if (!rule.met) {
                ends.add(new LooseEnd(LooseEnd.Kind.RULE, line, "No call met the rule: " + rule.text + "."));
            } else if (rule.answers && !rule.metByCode && !acts.isEmpty()) {
                ends.add(new LooseEnd(
                        LooseEnd.Kind.ANSWER,
                        line,
                        "Only the test itself was given the answer, not the code under test: " + rule.text + "."));
            }
        }
        return ends;
    }

    private @Nullable SourceLine line() {
        return SourceLine.here(testClass).orElse(null);
    }

    /** An expectation on rows, which can be asked again of others. */
    @FunctionalInterface
    public interface Question {
        /**
         * Asks it.
         *
         * @param store where the rows are
         * @throws AssertionError if they are not as expected
         */
        void ask(Store store);
    }

    /**
     * Asks whether rows are as expected, and tells the story of it, if there is one.
     *
     * @param text what is expected, in words
     * @param table whose rows it is about
     * @throws AssertionError if they are not
     */
    public static void expect(Store store, String text, Table table, Question question) {
        Story story = Stories.of(store);
        if (story == null) {
            question.ask(store);
        } else {
            story.ask(store, text, table, question);
        }
    }

    private void ask(Store store, String text, Table table, Question question) {
        UnseenValues known = values;
        if (known == null) {
            expect(text, () -> question.ask(store));
            return;
        }
        RowsView view = new RowsView(store);
        expect(text, () -> question.ask(view));
        synchronized (this) {
            again(() -> known.ask(view, table, question));
        }
    }

    /** What goes wrong when it is asked again is never the test's fault; what was not asked stays unknown. */
    private static void again(Runnable asking) {
        try {
            asking.run();
        } catch (RuntimeException e) {
            LOG.log(Level.DEBUG, "An expectation could not be asked again.", e);
        }
    }

    /** An expectation on what an act left, which can be asked again of other changes. */
    @FunctionalInterface
    public interface ChangesQuestion {
        /**
         * Asks it.
         *
         * @throws AssertionError if they are not as expected
         */
        void ask(List<Change> changes);
    }

    /**
     * Asks whether an act left what is expected, and tells the story of it, if there is one.
     *
     * @param text what is expected, in words
     * @param changes what the act left
     * @param all whether it is expected that the act left no more than that
     * @param question asks now
     * @param again asks of other changes, from the beginning
     * @throws AssertionError if it did not
     */
    public static void expect(
            Store store, String text, List<Change> changes, boolean all, Runnable question, ChangesQuestion again) {
        Story story = Stories.of(store);
        if (story == null) {
            question.run();
        } else {
            story.ask(text, changes, all, question, again);
        }
    }

    private void ask(String text, List<Change> changes, boolean all, Runnable question, ChangesQuestion again) {
        expect(text, question);
        synchronized (this) {
            RecordedAct act = acts.stream()
                    .filter(one -> one.changes() == changes && !changes.isEmpty())
                    .findFirst()
                    .orElse(null);
            if (act != null) {
                act.expected(all);
            }
            UnseenValues known = values;
            if (known != null && act != null) {
                again(() -> known.ask(act, again));
            }
        }
    }

    /** Takes note that rows are brought back to an earlier state: what was stored until now is asked about no more. */
    public synchronized void rewound() {
        if (values != null) {
            values.rewound();
        }
    }

    /** Returns what was stored, and whether the test looks at it; empty if nothing was asked again. */
    public synchronized List<WrittenValue> written() {
        return values == null ? List.of() : values.all();
    }

    /** Returns how many rows there were too many of to ask about. */
    public synchronized int untried() {
        return values == null ? 0 : values.untried();
    }
}
