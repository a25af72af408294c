package dev.zabbet.internal.plan;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.check.CheckCondition;
import dev.zabbet.internal.check.CheckCondition.Verdict;
import dev.zabbet.internal.plan.value.Proposals;
import dev.zabbet.row.Row;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.IntFunction;
import org.jspecify.annotations.Nullable;

/**
 * Columns of a node whose values are found together, because checks tie them to one another or to constants. Not thread-safe.
 *
 * <h2>The idea</h2>
 *
 * Each column offers proposals, the least unusual first: the value that it would have had anyway, then values that are read off the
 * checks (bounds, list members, what follows from the other columns). A solution is one proposal for each column that keeps all
 * checks. Combinations are tried by the sum of the proposals' positions, all of sum 0, then all of sum 1, and so on, so that few
 * columns deviate before many do. That is a limited discrepancy search (Harvey and Ginsberg, "Limited Discrepancy Search",
 * IJCAI 1995) over an ordering in which position stands for discrepancy.
 *
 * <h2>Invariants</h2>
 *
 * <ul>
 *   <li>The solution is a pure function of the row, as every value is: proposals follow from the ordinal, and the order of trying is
 *       fixed. Rows can therefore be solved in any order and on any machine.
 *   <li>A check is kept unless it is false; unknown counts as kept (ISO 9075, three-valued logic).
 *   <li>Columns that follow from others are proposed after them ({@link Puzzles} orders them), so that their proposals know the
 *       values chosen before.
 *   <li>A check that only the store can evaluate is asked of the {@link Arbiter}, for each candidate row.
 *   <li>The search ends after a fixed number of tries with a message that names the checks; it never runs without bound.
 * </ul>
 *
 * <h2>Why not otherwise</h2>
 *
 * A depth-first search would keep the first column's first value at any price and leave the last one absurd. Solving the checks as
 * formulas would cover ranges and lists, but not text patterns or functions of the database; proposals cover both, and need no
 * theory of each function.
 */
final class Puzzle {
    private static final int MOST_TRIES = 30_000;

    /** So many rows are looked at before they are stored, and need not be solved again then. */
    private static final int REMEMBERED = 64;

    private final Node node;
    private final List<Open> open;
    private final List<CheckCondition> checks;
    private final Arbiter arbiter;
    private final Map<Integer, Integer> indexOf = new LinkedHashMap<>();
    /** By the values of the columns before, for the row that is being solved. */
    private final Map<List<@Nullable Object>, Proposals> proposed = new HashMap<>();

    /** By ordinal; only where nothing but the ordinal decides. */
    private final Map<Long, @Nullable Object[]> solved = new HashMap<>();

    private final boolean alone;
    private long solvedOrdinal = -1;
    private @Nullable Object[] solution = {};
    private int tries; // of the row that is being solved
    private int longest; // the most deviations that were possible

    /** A column to find a value for. */
    record Open(int position, Candidates candidates) {}

    /** Gives the candidates for a column of a row, the least unusual first. */
    @FunctionalInterface
    interface Candidates {
        Proposals of(int row, List<CheckCondition> checks, IntFunction<@Nullable Object> others);
    }

    /** Tells of a condition that only the store can evaluate whether a row keeps it. */
    interface Arbiter {
        boolean keeps(CheckCondition condition, IntFunction<@Nullable Object> row);

        /** Tells whether the store reckons with decimals exactly. */
        boolean isExact();
    }

    Puzzle(Node node, List<Open> open, List<CheckCondition> checks, Arbiter arbiter) {
        this.node = node;
        this.open = List.copyOf(open);
        this.checks = List.copyOf(checks);
        this.arbiter = arbiter;
        for (int i = 0; i < open.size(); i++) {
            indexOf.put(open.get(i).position(), i);
        }
        this.alone = checks.stream()
                .flatMap(check -> check.columns().stream())
                .allMatch(column -> indexOf.containsKey(node.table.requirePosition(column)));
    }

    List<Open> open() {
        return open;
    }

    /** Returns the value of the column at an index of {@link #open}. */
    @Nullable
    Object value(int index, int row) {
        long ordinal = node.ordinal(row);
        if (ordinal != solvedOrdinal) {
            @Nullable Object[] known = solved.get(ordinal);
            solution = known == null ? solve(row) : known;
            solvedOrdinal = ordinal;
            if (alone && solved.size() < REMEMBERED) {
                solved.put(ordinal, solution);
            }
        }
        return solution[index];
    }

    private @Nullable Object[] solve(int row) {
        @Nullable Object[] values = new @Nullable Object[open.size()];
        proposed.clear();
        tries = 0;
        // The candidates of later columns depend on earlier ones; few deviations are tried before many.
        for (int budget = 0; budget < 60 && tries < MOST_TRIES; budget++) {
            longest = 0;
            if (attempt(row, 0, budget, values)) {
                return values;
            }
            if (longest < budget) {
                break; // all combinations were tried
            }
        }
        throw unsolvable(row);
    }

    /** Tries the combinations whose deviations add up to exactly the budget. */
    private boolean attempt(int row, int at, int budget, @Nullable Object[] values) {
        if (tries >= MOST_TRIES) {
            return false;
        }
        Proposals proposals = proposed.computeIfAbsent(
                Arrays.asList(Arrays.copyOf(values, at)),
                before -> open.get(at).candidates().of(row, checks, position -> known(position, row, at, values)));
        boolean last = at == open.size() - 1;
        for (int i = last ? budget : 0; i <= budget && proposals.has(i); i++) {
            values[at] = proposals.get(i);
            if (last) {
                longest = Math.max(longest, budget);
                tries++;
                if (holds(row, values)) {
                    return true;
                }
            } else if (attempt(row, at + 1, budget - i, values)) {
                return true;
            }
        }
        return false;
    }

    private @Nullable Object known(int position, int row, int before, @Nullable Object[] values) {
        Integer index = indexOf.get(position);
        if (index == null) {
            return TestedColumn.value(node, position, row);
        }
        if (index < before) {
            return values[index];
        }
        return null;
    }

    private boolean holds(int row, @Nullable Object[] values) {
        IntFunction<@Nullable Object> all = position -> known(position, row, open.size(), values);
        for (CheckCondition check : checks) {
            Verdict verdict = check.evaluate(all);
            boolean inDoubt = verdict == Verdict.NOT_UNDERSTOOD || (check.reckons() && !arbiter.isExact());
            if (verdict == Verdict.BROKEN || (inDoubt && !arbiter.keeps(check, all))) {
                return false;
            }
        }
        return true;
    }

    private ZabbetException unsolvable(int row) {
        List<String> texts = new ArrayList<>();
        for (CheckCondition check : checks) {
            String name = check.check().name();
            texts.add((name.isEmpty() ? "" : name + ", ") + check.check().text());
        }
        Map<String, @Nullable Object> fixed = new LinkedHashMap<>();
        List<String> free = new ArrayList<>();
        for (CheckCondition check : checks) {
            for (String column : check.columns()) {
                int position = node.table.requirePosition(column);
                if (!indexOf.containsKey(position)) {
                    fixed.put(column, TestedColumn.value(node, position, row));
                } else if (!free.contains(column)) {
                    free.add(column);
                }
            }
        }
        return new ZabbetException("No values of " + String.join(", ", free) + " are found with which a row of "
                + node.table.name() + " keeps its " + (texts.size() == 1 ? "check " : "checks ")
                + String.join("; and ", texts) + (fixed.isEmpty() ? "" : ", with " + Row.of(fixed)) + ". Set "
                + String.join(", ", free) + " to values that keep " + (texts.size() == 1 ? "it" : "them")
                + ". Nothing was stored.");
    }
}
