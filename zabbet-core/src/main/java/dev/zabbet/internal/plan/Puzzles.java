package dev.zabbet.internal.plan;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.check.CheckCondition;
import dev.zabbet.internal.check.CheckCondition.Verdict;
import dev.zabbet.internal.plan.value.Maker;
import dev.zabbet.internal.plan.value.Variety;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Column;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import java.util.function.IntFunction;
import org.jspecify.annotations.Nullable;

/**
 * Finds out which columns of a node cannot be made one by one, because a check on them would break, and makes each group
 * of them together.
 */
final class Puzzles {
    private static final int SAMPLES = 64;
    private static final int FIRST_ROWS = 8;

    /** Each row costs a question to the store. */
    private static final int ASKED = 16;

    private final Node node;
    private final int size;
    private final Sources sources;
    private final Puzzle.Arbiter arbiter;
    private final List<CheckCondition> checks = new ArrayList<>();

    Puzzles(Node node, int size, Sources sources, Puzzle.Arbiter arbiter) {
        this.node = node;
        this.size = size;
        this.sources = sources;
        this.arbiter = arbiter;
        for (Check check : node.table.checks()) {
            checks.add(CheckCondition.of(node.table, check));
        }
        checks.addAll(node.said.restrictions());
    }

    void solve() {
        List<Set<Integer>> groups = new ArrayList<>();
        for (CheckCondition check : checks) {
            Set<Integer> open = open(check, false);
            if (isInvolved(check, open)) {
                join(groups, open.isEmpty() ? open(check, true) : open);
            }
        }
        for (Set<Integer> group : groups) {
            if (!group.isEmpty()) {
                settle(group);
            }
        }
    }

    /** First with the columns that get values anyhow; if that cannot be, with those left to the database too. */
    private void settle(Set<Integer> group) {
        List<CheckCondition> tied = tied(group);
        Puzzle few = puzzle(group, tied);
        try {
            tryFirstRows(few);
            put(few);
        } catch (ZabbetException e) {
            Set<Integer> wider = new LinkedHashSet<>(group);
            tied.forEach(check -> wider.addAll(open(check, true)));
            if (wider.equals(group)) {
                throw e;
            }
            Puzzle more = puzzle(wider, tied(wider));
            tryFirstRows(more);
            put(more);
        }
    }

    private void tryFirstRows(Puzzle puzzle) {
        for (int row = 0; row < Math.min(size, FIRST_ROWS); row++) {
            puzzle.value(0, row);
        }
    }

    private void put(Puzzle puzzle) {
        for (int i = 0; i < puzzle.open().size(); i++) {
            int at = puzzle.open().get(i).position();
            node.cells[at] = new Cell.Solved(puzzle, i);
            node.source(at, new Source.Solved(puzzle, i));
        }
    }

    private Puzzle puzzle(Set<Integer> group, List<CheckCondition> tied) {
        List<Puzzle.Open> open = new ArrayList<>();
        List<Integer> order = new ArrayList<>(group);
        tied.stream()
                .flatMap(check -> check.determined().stream())
                .map(node.table::requirePosition)
                .filter(group::contains)
                .forEach(at -> {
                    order.remove(at);
                    order.add(at); // what follows from the others comes after them
                });
        for (int at : order) {
            Cell cell = node.cells[at];
            boolean leftOut = cell instanceof Cell.LeftOut;
            Maker maker = cell instanceof Cell.Made made ? made.maker() : node.maker(at);
            Variety variety = cell instanceof Cell.Made made ? made.variety() : Variety.NONE;
            open.add(new Puzzle.Open(
                    at,
                    new CandidateValues(
                            node, at, maker, variety, leftOut, (row, attempt) -> sources.values(at, row, attempt))));
        }
        return new Puzzle(node, open, tied, arbiter);
    }

    private List<CheckCondition> tied(Set<Integer> group) {
        return checks.stream()
                .filter(check -> check.columns().stream().anyMatch(c -> group.contains(node.table.requirePosition(c)))
                        && isKnowable(check))
                .toList();
    }

    private static void join(List<Set<Integer>> groups, Set<Integer> columns) {
        Set<Integer> joined = new LinkedHashSet<>(columns);
        groups.removeIf(group -> {
            boolean shares = group.stream().anyMatch(columns::contains);
            if (shares) {
                joined.addAll(group);
            }
            return shares;
        });
        groups.add(joined);
    }

    /** Columns whose values are free to choose; those left to the database only if need be. */
    private Set<Integer> open(CheckCondition check, boolean leftOutToo) {
        Set<Integer> open = new LinkedHashSet<>();
        for (String name : check.columns()) {
            int at = node.table.requirePosition(name);
            Column column = node.table.columns().get(at);
            boolean leftOut = node.cells[at] instanceof Cell.LeftOut
                    && !column.isComputed()
                    && !column.isNumbered()
                    && node.table.referencesOf(column.name()).isEmpty();
            if (node.cells[at] instanceof Cell.Made || (leftOutToo && leftOut)) {
                open.add(at);
            }
        }
        return open;
    }

    /** Tells whether a check on what the database fills in is out of reach. */
    private boolean isKnowable(CheckCondition check) {
        return check.columns().stream()
                .noneMatch(column -> TestedColumn.isUnknown(node, node.table.requirePosition(column)));
    }

    private boolean isInvolved(CheckCondition check, Set<Integer> open) {
        if (!isKnowable(check) || check.columns().isEmpty()) {
            return false;
        }
        int rows = Math.min(size, check.trouble().isPresent() ? ASKED : SAMPLES);
        if (open.isEmpty()) {
            rows = Math.min(size, 1);
        }
        for (int row = 0; row < rows; row++) {
            int at = row;
            IntFunction<@Nullable Object> values = position -> TestedColumn.value(node, position, at);
            Verdict verdict = check.evaluate(values);
            if (verdict == Verdict.BROKEN) {
                return true;
            }
            if (verdict == Verdict.NOT_UNDERSTOOD && row < ASKED && !arbiter.keeps(check, values)) {
                return true;
            }
        }
        // a sample tells nothing of the rest, unless values are made within the check's bounds
        return size > 1 && ((open.size() > 1 && check.trouble().isEmpty()) || !check.isBounds());
    }
}
