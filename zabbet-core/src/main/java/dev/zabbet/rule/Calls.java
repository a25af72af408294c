package dev.zabbet.rule;

import dev.zabbet.fake.Call;
import dev.zabbet.internal.fake.Arguments;
import dev.zabbet.internal.fake.Mediator;
import dev.zabbet.internal.fake.RecordedCall;
import dev.zabbet.internal.story.LooseEnd;
import dev.zabbet.internal.story.Story;
import dev.zabbet.internal.text.Words;
import java.lang.reflect.Method;
import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.opentest4j.AssertionFailedError;

/**
 * The calls of one method that a fake received, and expectations on them. A failure lists the calls that came.
 * The last 5,000 to 10,000 calls of a fake are kept; where older ones were let go, a failure says so.
 */
public final class Calls {
    private static final int SHOWN = 12;

    private final Mediator mediator;
    private final @Nullable Method method;
    private final Arguments arguments;
    private final Story.@Nullable Begun begun;

    Calls(Mediator mediator, @Nullable Method method, Arguments arguments) {
        this(mediator, method, arguments, begin(mediator, method));
    }

    private Calls(Mediator mediator, @Nullable Method method, Arguments arguments, Story.@Nullable Begun begun) {
        this.mediator = mediator;
        this.method = method;
        this.arguments = arguments;
        this.begun = begun;
    }

    private static Story.@Nullable Begun begin(Mediator mediator, @Nullable Method method) {
        Story story = mediator.log.story();
        return story == null || method == null
                ? null
                : story.begin(
                        LooseEnd.Kind.CALLS,
                        "calls(" + mediator.type().getSimpleName() + "::" + method.getName() + ")");
    }

    /**
     * Means calls with these arguments alone.
     *
     * @param wanted as many as the method takes, each a value, null, or a matcher as expected rows have them
     * @return an expectation on these calls only
     */
    public Calls with(@Nullable Object... wanted) {
        Method of = method;
        if (of == null) {
            throw new dev.zabbet.error.ZabbetException("with needs a method: calls(StayRepository::save).with(…).");
        }
        return new Calls(mediator, of, Arguments.of(of, wanted), begun);
    }

    /** {@return the calls, in order} */
    public List<Call> list() {
        return List.copyOf(recorded());
    }

    private List<RecordedCall> recorded() {
        if (begun != null) {
            begun.ended();
        }
        return mediator.log.calls().stream()
                .filter(call ->
                        method == null || (call.reflected().equals(method) && arguments.match(call.arguments())))
                .toList();
    }

    /**
     * Expects exactly this number of calls.
     *
     * @param n how many calls, from 0
     * @return this expectation
     */
    public Calls exactly(int n) {
        int came = list().size();
        return require(came == n, Words.count(n, "call") + (n == 1 ? " was" : " were") + " expected", n);
    }

    /**
     * Expects at least this number of calls.
     *
     * @param n how many calls, from 0
     * @return this expectation
     */
    public Calls atLeast(int n) {
        return require(
                list().size() >= n,
                "at least " + Words.count(n, "call") + (n == 1 ? " was" : " were") + " expected",
                n);
    }

    /**
     * Expects at most this number of calls.
     *
     * @param n how many calls, from 0
     * @return this expectation
     */
    public Calls atMost(int n) {
        return require(
                list().size() <= n, "at most " + Words.count(n, "call") + (n == 1 ? " was" : " were") + " expected", n);
    }

    /**
     * Expects that no such call came.
     *
     * @return this expectation
     */
    public Calls none() {
        return require(list().isEmpty(), "none was expected", 0);
    }

    /**
     * Expects that calls came, and all of them before all of the others; both may be of different fakes of one stage.
     *
     * @param others the calls that come later
     * @return this expectation
     */
    public Calls before(Calls others) {
        List<RecordedCall> mine = recorded();
        List<RecordedCall> theirs = others.recorded();
        boolean before = !mine.isEmpty() && !theirs.isEmpty() && mine.get(mine.size() - 1).order < theirs.get(0).order;
        if (!before) {
            List<RecordedCall> all = new ArrayList<>(mine);
            all.addAll(theirs);
            all.sort(java.util.Comparator.comparingLong(call -> call.order));
            String what;
            if (mine.isEmpty()) {
                what = "none of " + name() + " came.";
            } else if (theirs.isEmpty()) {
                what = "none of " + others.name() + " came.";
            } else {
                what = "they came like this:";
            }
            throw new AssertionFailedError(
                    "Calls of " + name() + " were expected before those of " + others.name() + "; "
                            + what
                            + listed(all),
                    name() + ", then " + others.name(),
                    String.join("\n", all.stream().map(RecordedCall::toString).toList()));
        }
        return this;
    }

    private Calls require(boolean holds, String wanted, int n) {
        if (!holds) {
            List<Call> came = list();
            List<RecordedCall> all = mediator.log.calls();
            boolean others = came.isEmpty() && !all.isEmpty();
            throw new AssertionFailedError(
                    "Of " + name() + " " + wanted + "; " + (came.isEmpty() ? "none" : Words.count(came.size(), "call"))
                            + " came." + listed(came)
                            + (others ? "\nOther calls came:" + listed(all) : "")
                            + (mediator.log.letGo() > 0
                                    ? "\n(The first " + mediator.log.letGo() + " calls are no longer kept.)"
                                    : ""),
                    Words.count(n, "call"),
                    Words.count(came.size(), "call"));
        }
        return this;
    }

    private String name() {
        Method of = method;
        return mediator.type().getSimpleName() + (of == null ? "" : "." + of.getName()) + arguments.describe();
    }

    private static String listed(List<? extends Call> calls) {
        StringBuilder text = new StringBuilder();
        calls.stream().limit(SHOWN).forEach(call -> text.append("\n  ").append(call));
        if (calls.size() > SHOWN) {
            text.append("\n  and ").append(calls.size() - SHOWN).append(" more");
        }
        return text.toString();
    }

    @Override
    public String toString() {
        return name() + ": " + Words.count(list().size(), "call");
    }
}
