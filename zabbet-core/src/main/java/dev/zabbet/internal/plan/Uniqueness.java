package dev.zabbet.internal.plan;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.check.CheckCondition;
import dev.zabbet.internal.plan.value.Maker;
import dev.zabbet.internal.plan.value.Variety;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.UniqueKey;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * Makes the rows of a node different by every unique key, by construction: in each key the made column with the most
 * different values follows the ordinal; where no column has enough, several do, as the digits of a number do.
 */
final class Uniqueness {
    /** What is more than this is not counted. */
    private static final long PLENTY = 1_000_000_000L;

    private final Node node;
    private final Table table;
    private final List<Node> all;

    /** @param all the nodes of the plan */
    Uniqueness(Node node, List<Node> all) {
        this.node = node;
        this.table = node.table;
        this.all = all;
    }

    void settle() {
        Stream.concat(table.primaryKey().stream(), table.uniques().stream())
                .sorted(Comparator.comparingInt(key -> deciding(key).size()))
                .forEach(this::settle);
    }

    /** Returns the columns that decide whether a row is like another, those of expressions among them. */
    static Set<Integer> columns(Table table, UniqueKey key) {
        Set<Integer> columns = new LinkedHashSet<>();
        key.columns().forEach(column -> columns.add(table.requirePosition(column)));
        key.expressions().forEach(expression -> columns.addAll(columns(table, expression)));
        return columns;
    }

    private static List<Integer> columns(Table table, String expression) {
        return CheckCondition.of(table, new Check("", expression)).columns().stream()
                .map(table::requirePosition)
                .toList();
    }

    /** Tells whether a column that may be null has to hold values because rows differ by it alone, nulls being alike. */
    static boolean isNeeded(Table table, Column column) {
        return column.nullable()
                && table.uniques().stream()
                        .filter(key -> !key.nullsDistinct() && key.columns().contains(column.name()))
                        .anyMatch(key -> key.columns().stream()
                                .map(name -> table.columns().get(table.requirePosition(name)))
                                .allMatch(other -> other.nullable()
                                        || !table.referencesOf(other.name()).isEmpty()));
    }

    /** What a computed column of a key is computed from decides, unless another column of the key does already. */
    private Set<Integer> deciding(UniqueKey key) {
        Set<Integer> columns = columns(table, key);
        Set<Integer> deciding = new LinkedHashSet<>();
        for (int at : columns) {
            Column column = table.columns().get(at);
            if (!column.isComputed()) {
                deciding.add(at);
            }
        }
        if (deciding.stream()
                .noneMatch(at -> node.cells[at] instanceof Cell.Made || node.cells[at] instanceof Cell.Reserved)) {
            for (int at : columns) {
                Column column = table.columns().get(at);
                if (column.isComputed()) {
                    column.defaultText().ifPresent(text -> deciding.addAll(columns(table, text)));
                }
            }
        }
        return deciding;
    }

    private void settle(UniqueKey key) {
        List<Integer> made = new ArrayList<>();
        Set<ParentPick> picks = new LinkedHashSet<>();
        for (int at : deciding(key)) {
            Cell cell = node.cells[at];
            if (endOf(cell) instanceof Cell.OfPlanned of) {
                if (of.pick().isDistinct()) {
                    return;
                }
                picks.add(of.pick());
            }
            if (cell instanceof Cell.Reserved || (cell instanceof Cell.Link link && isOwn(link, at))) {
                return;
            }
            if (cell instanceof Cell.Made of) {
                if (of.variety().equals(Variety.EACH_ROW) && of.maker().size() >= PLENTY) {
                    return;
                }
                made.add(at);
            } else if (cell instanceof Cell.LeftOut
                    && isConstant(table.columns().get(at))) {
                made.add(at);
            } else if (cell instanceof Cell.LeftOut && key.nullsDistinct()) {
                return; // null, which is different from every null, or what the database makes
            }
        }
        if (!made.isEmpty()) {
            spread(key, made);
        } else if (!picks.isEmpty()) {
            takeInTurn(key, picks);
        }
    }

    /** Returns what a column comes from in the end, where each row has a row of its own there. */
    private @Nullable Cell endOf(@Nullable Cell cell) {
        Cell end = cell;
        while (end instanceof Cell.Link link
                && link.divisor() == 1
                && link.node() != node
                && link.node().perRoot == node.perRoot
                && link.node().once == node.once) {
            end = link.node().cells[link.position()];
        }
        return end;
    }

    /** Rows that differ by their parents alone get all combinations of parents, one after another. */
    private void takeInTurn(UniqueKey key, Set<ParentPick> picks) {
        long divisor = 1;
        for (ParentPick pick : picks) {
            if (!pick.isDrawn() && pick.divisor() == divisor) {
                divisor = Math.multiplyExact(divisor, pick.size());
            }
        }
        for (ParentPick pick : picks) {
            if (pick.isDrawn() && picks.size() == 1) {
                pick.onceEach();
            } else if (pick.isDrawn()) {
                pick.inTurn(divisor);
            } else {
                continue;
            }
            divisor = Math.multiplyExact(divisor, pick.size());
        }
        node.takeInTurn(key, picks, divisor);
    }

    /** A parent made for each row has a key of its own, and that is what the column holds; in no other row of the plan. */
    private boolean isOwn(Cell.Link link, int at) {
        return link.divisor() == 1
                && link.node() != node
                && !link.node().shared
                && all.stream()
                        .filter(other -> other != node && other.table.equals(table))
                        .noneMatch(other -> ends(other, at).equals(ends(node, at)))
                && Stream.concat(link.node().table.primaryKey().stream(), link.node().table.uniques().stream())
                        .anyMatch(key -> key.columns()
                                .equals(List.of(link.node()
                                        .table
                                        .columns()
                                        .get(link.position())
                                        .name())));
    }

    /** Where the value of a column comes from in the end. */
    private static Map.Entry<Node, Integer> ends(Node node, int at) {
        Node of = node;
        int position = at;
        while (of.cells[position] instanceof Cell.Link link && link.node() != of) {
            of = link.node();
            position = link.position();
        }
        return Map.entry(of, position);
    }

    private static boolean isConstant(Column column) {
        return column.defaultText().isPresent()
                && !column.isComputed()
                && !column.defaultText().get().contains("(")
                && !column.defaultText()
                        .get()
                        .toLowerCase(java.util.Locale.ROOT)
                        .startsWith("next value");
    }

    private void spread(UniqueKey key, List<Integer> made) {
        made.removeIf(at -> node.cells[at] instanceof Cell.LeftOut && made.size() > 1 && hasMade(made));
        int best = made.get(0);
        for (int at : made) {
            if (maker(at).size() > maker(best).size()) {
                best = at;
            }
        }
        if (maker(best).size() >= PLENTY) {
            node.cells[best] = new Cell.Made(maker(best), Variety.EACH_ROW);
            return;
        }
        if (made.size() == 1) {
            Maker whole = maker(best).whole();
            node.cells[best] = new Cell.Made(whole, new Variety(1));
            node.limit(whole.size(), key);
            return;
        }
        long divisor = 1;
        for (int i = made.size() - 1; i >= 0; i--) {
            int at = made.get(i);
            node.cells[at] = new Cell.Made(maker(at), new Variety(divisor));
            divisor = Math.multiplyExact(divisor, Math.min(maker(at).size(), PLENTY));
            if (divisor >= PLENTY) {
                return;
            }
        }
        node.limit(divisor, key);
    }

    private boolean hasMade(List<Integer> made) {
        return made.stream().anyMatch(at -> node.cells[at] instanceof Cell.Made);
    }

    private Maker maker(int at) {
        return node.cells[at] instanceof Cell.Made made ? made.maker() : node.maker(at);
    }

    /** Refuses a plan that needs more different rows than a key has room for. */
    static void requireRoom(Node node, int rows) {
        @Nullable UniqueKey key = node.tightest();
        if (key != null) {
            requireRoom(node, key, node.room(), rows);
        }
    }

    /** Refuses more different rows than a key has room for. */
    static void requireRoom(Node node, UniqueKey key, long room, long rows) {
        if (rows > room) {
            throw new ZabbetException("Only " + room + " rows of " + node.table.name()
                    + " can be different by (" + String.join(", ", key.columns()) + "), and " + rows
                    + " are asked for. Give those columns values of your own, or ask for fewer.");
        }
    }
}
