package dev.zabbet.internal.check;

import dev.zabbet.schema.Check;
import dev.zabbet.schema.Table;
import java.util.LinkedHashSet;
import java.util.Optional;
import java.util.Set;
import java.util.function.IntFunction;
import org.jspecify.annotations.Nullable;

/** A check constraint of a table, read so that it can be evaluated. */
public final class CheckCondition {
    private final Check check;
    private final Table table;
    private final @Nullable Expr expr;
    private final @Nullable String trouble;

    private CheckCondition(Table table, Check check, @Nullable Expr expr, @Nullable String trouble) {
        this.table = table;
        this.check = check;
        this.expr = expr;
        this.trouble = trouble;
    }

    /** What evaluating a condition tells. */
    public enum Verdict {
        /** The condition is true or unknown: the row may be stored. */
        KEPT,
        /** The condition is false: the database would refuse the row. */
        BROKEN,
        /** Only the database can tell. */
        NOT_UNDERSTOOD
    }

    /** Reads the condition; a text that cannot be read gives one that is never understood. */
    public static CheckCondition of(Table table, Check check) {
        try {
            Expr expr = Parser.parse(check.text());
            Set<String> names = new LinkedHashSet<>();
            columnsIn(expr, names);
            for (String name : names) {
                if (table.position(name) < 0) {
                    return new CheckCondition(table, check, null, "'" + name + "'");
                }
            }
            return new CheckCondition(table, check, expr, null);
        } catch (NotUnderstood e) {
            return new CheckCondition(table, check, null, e.getMessage());
        }
    }

    /** Returns the constraint. */
    public Check check() {
        return check;
    }

    /** Returns what was not understood in the text, if anything. */
    public Optional<String> trouble() {
        return Optional.ofNullable(trouble);
    }

    /** Returns the condition, if it was understood. */
    Optional<Expr> expr() {
        return Optional.ofNullable(expr);
    }

    /** Returns the names of the columns in the condition, as the table names them; empty if it was not understood. */
    public Set<String> columns() {
        Set<String> names = new LinkedHashSet<>();
        if (expr != null) {
            columnsIn(expr, names);
        }
        Set<String> known = new LinkedHashSet<>();
        names.forEach(name -> known.add(table.requireColumn(name).name()));
        return known;
    }

    /**
     * Evaluates the condition.
     *
     * @param values gives the value of the column at a position of the table
     */
    public Verdict evaluate(IntFunction<@Nullable Object> values) {
        if (expr == null) {
            return Verdict.NOT_UNDERSTOOD;
        }
        try {
            Boolean truth = new Evaluator(name -> values.apply(table.position(name))).truth(expr);
            return truth == null || truth ? Verdict.KEPT : Verdict.BROKEN;
        } catch (NotUnderstood e) {
            return Verdict.NOT_UNDERSTOOD;
        }
    }

    private static void columnsIn(Expr expr, Set<String> names) {
        if (expr instanceof Expr.ColumnRef column) {
            names.add(column.name());
        } else if (expr instanceof Expr.And and) {
            and.parts().forEach(part -> columnsIn(part, names));
        } else if (expr instanceof Expr.Or or) {
            or.parts().forEach(part -> columnsIn(part, names));
        } else if (expr instanceof Expr.Not not) {
            columnsIn(not.part(), names);
        } else if (expr instanceof Expr.IsNull isNull) {
            columnsIn(isNull.value(), names);
        } else if (expr instanceof Expr.In in) {
            columnsIn(in.value(), names);
            in.choices().forEach(choice -> columnsIn(choice, names));
        } else if (expr instanceof Expr.Matches matches) {
            columnsIn(matches.text(), names);
            columnsIn(matches.pattern(), names);
        } else if (expr instanceof Expr.Binary binary) {
            columnsIn(binary.left(), names);
            columnsIn(binary.right(), names);
        } else if (expr instanceof Expr.Call call) {
            call.arguments().forEach(argument -> columnsIn(argument, names));
        }
    }
}
