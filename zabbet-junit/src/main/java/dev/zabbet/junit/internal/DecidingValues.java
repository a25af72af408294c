package dev.zabbet.junit.internal;

import dev.zabbet.internal.value.MixedVariation.Place;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.function.Predicate;

/**
 * Finds the smallest set of values that decides whether a test passes: of a run that passes and one that fails, values are exchanged,
 * first those of whole columns, then those of single rows (delta debugging: Zeller and Hildebrandt, "Simplifying and Isolating
 * Failure-Inducing Input", 2002). What is found has to hold both ways, and for other runs: where it does not, as with two dates of
 * which one has to come first, it is made larger, and then made as small again as all of these allow.
 */
final class DecidingValues {
    private static final int MOST_CHECKED = 8; // other runs, of each kind

    private final List<VariationRun> runs;
    private final Function<Exchange, VariationRun> ask;
    private final List<VariationRun> asked = new ArrayList<>();
    private final VariationRun passing;
    private final VariationRun failing;
    private final List<VariationRun> otherReasons = new ArrayList<>();
    private boolean cutShort;

    /**
     * A run to be made.
     *
     * @param base the variation that values come from
     * @param other the variation that those of the places come from
     */
    record Exchange(long base, long other, Set<Place> places) {}

    /** There may be no more runs. */
    static final class EnoughException extends RuntimeException {
        EnoughException() {
            super(null, null, false, false);
        }
    }

    /**
     * What was found.
     *
     * @param places the places that decide
     * @param failing the run that fails, whose values are shown
     * @param runs all runs that were made, those before the search too
     * @param otherReasons runs that fail for another reason
     * @param cutShort whether there was no time to look at all
     */
    record Found(
            Set<Place> places,
            VariationRun failing,
            List<VariationRun> runs,
            List<VariationRun> otherReasons,
            boolean cutShort) {}

    private DecidingValues(
            List<VariationRun> runs, VariationRun passing, VariationRun failing, Function<Exchange, VariationRun> ask) {
        this.runs = runs;
        this.passing = passing;
        this.failing = failing;
        this.ask = ask;
    }

    /**
     * Searches.
     *
     * @param runs of plain variations
     * @param ask makes one more run; throws {@link EnoughException} if there may be none
     * @return what decides; empty if all runs pass or all fail
     */
    static Optional<Found> of(List<VariationRun> runs, Function<Exchange, VariationRun> ask) {
        VariationRun bestPassing = null;
        VariationRun bestFailing = null;
        int fewest = Integer.MAX_VALUE;
        for (VariationRun failing : runs) {
            if (failing.passed() || failing.end().equals(VariationRun.ABORTED)) {
                continue;
            }
            for (VariationRun passing : runs) {
                if (passing.passed()) {
                    int columns =
                            VariationRun.byColumn(passing.differences(failing)).size();
                    if (columns < fewest) {
                        fewest = columns;
                        bestPassing = passing;
                        bestFailing = failing;
                    }
                }
            }
        }
        if (bestPassing == null || bestFailing == null) {
            return Optional.empty();
        }
        return Optional.of(new DecidingValues(runs, bestPassing, bestFailing, ask).find());
    }

    private Found find() {
        Set<Place> places = passing.differences(failing);
        try {
            places = smallest(passing, failing);
            places = confirmed(places);
            places = smaller(places);
        } catch (EnoughException e) {
            cutShort = true;
        }
        List<VariationRun> all = new ArrayList<>(runs);
        all.addAll(asked);
        return new Found(places, failing, all, otherReasons, cutShort);
    }

    private VariationRun run(VariationRun base, VariationRun other, Set<Place> places) {
        VariationRun run = ask.apply(new Exchange(base.base(), other.base(), places));
        asked.add(run);
        return run;
    }

    private boolean fails(VariationRun base, Set<Place> places, VariationRun from) {
        return run(base, from, places).failedLike(from);
    }

    /** Returns the fewest places of a failing run that make one that passes fail. */
    private Set<Place> smallest(VariationRun base, VariationRun from) {
        Set<Place> columns = reduce(
                List.copyOf(VariationRun.byColumn(base.differences(from)).values()), some -> fails(base, some, from));
        return columns.size() == VariationRun.byColumn(columns).size()
                ? columns
                : reduce(columns.stream().map(Set::of).toList(), some -> fails(base, some, from));
    }

    /** Returns few of the groups for which a question is still answered by yes; it is for all of them. */
    private static Set<Place> reduce(List<Set<Place>> groups, Predicate<Set<Place>> question) {
        List<Set<Place>> left = new ArrayList<>(groups);
        int parts = 2;
        while (left.size() > 1) {
            boolean reduced = false;
            int size = Math.max(1, (left.size() + parts - 1) / parts);
            for (int from = 0; from < left.size() && !reduced; from += size) {
                List<Set<Place>> part = left.subList(from, Math.min(left.size(), from + size));
                if (part.size() < left.size() && question.test(union(part))) {
                    left = new ArrayList<>(part);
                    parts = 2;
                    reduced = true;
                }
            }
            for (int from = 0; from < left.size() && !reduced && parts > 2; from += size) {
                List<Set<Place>> rest = new ArrayList<>(left.subList(0, from));
                rest.addAll(left.subList(Math.min(left.size(), from + size), left.size()));
                if (!rest.isEmpty() && question.test(union(rest))) {
                    left = rest;
                    parts = Math.max(2, parts - 1);
                    reduced = true;
                }
            }
            if (!reduced) {
                if (parts >= left.size()) {
                    break;
                }
                parts = Math.min(left.size(), parts * 2);
            }
        }
        return union(left);
    }

    private static Set<Place> union(List<Set<Place>> groups) {
        Set<Place> all = new LinkedHashSet<>();
        groups.forEach(all::addAll);
        return all;
    }

    /** Makes the set larger until it decides in other runs as well. */
    private Set<Place> confirmed(Set<Place> found) {
        Set<Place> places = new LinkedHashSet<>(found);
        for (VariationRun other : others(VariationRun::passed, passing)) {
            if (!fails(other, places, failing)) {
                places.addAll(smallest(other, failing));
            }
        }
        for (VariationRun other : others(run -> run.failedLike(failing), failing)) {
            if (run(other, passing, places).passed()) {
                continue;
            }
            Set<Place> cause = smallest(passing, other);
            if (cause.stream().noneMatch(places::contains)
                    && run(passing, other, places).passed()) {
                otherReasons.add(other); // it would fail without these values, too
            } else {
                places.addAll(cause);
            }
        }
        contradictions(places);
        return places;
    }

    /** Two runs that have the same values there, and end in two ways, show that something is missing. */
    private void contradictions(Set<Place> places) {
        for (VariationRun one : List.copyOf(runs)) {
            for (VariationRun other : List.copyOf(runs)) {
                if (one.passed()
                        && other.failedLike(failing)
                        && !otherReasons.contains(other)
                        && one.sameIn(other, places)) {
                    places.addAll(smallest(one, other));
                }
            }
        }
    }

    private List<VariationRun> others(Predicate<VariationRun> which, VariationRun but) {
        return runs.stream()
                .filter(which)
                .filter(run -> run.base() != but.base())
                .sorted(Comparator.comparingLong(VariationRun::base))
                .limit(MOST_CHECKED)
                .toList();
    }

    /** Leaves out what all the runs that were looked at do without. */
    private Set<Place> smaller(Set<Place> found) {
        Set<Place> places = found;
        List<Set<Place>> groups = VariationRun.byColumn(found).size() == 1
                ? found.stream().map(Set::of).toList()
                : List.copyOf(VariationRun.byColumn(found).values());
        for (Set<Place> group : groups) {
            Set<Place> rest = new LinkedHashSet<>(places);
            rest.removeAll(group);
            if (!rest.isEmpty() && decides(rest)) {
                places = rest;
            }
        }
        return places;
    }

    private boolean decides(Set<Place> places) {
        if (!fails(passing, places, failing) || !run(failing, passing, places).passed()) {
            return false;
        }
        for (VariationRun other : others(VariationRun::passed, passing)) {
            if (!fails(other, places, failing)) {
                return false;
            }
        }
        for (VariationRun other : others(run -> run.failedLike(failing), failing)) {
            if (!otherReasons.contains(other) && !run(other, passing, places).passed()) {
                return false;
            }
        }
        for (VariationRun one : runs) {
            if (one.passed()
                    && runs.stream()
                            .anyMatch(other -> other.failedLike(failing)
                                    && !otherReasons.contains(other)
                                    && one.sameIn(other, places))) {
                return false;
            }
        }
        return true;
    }
}
