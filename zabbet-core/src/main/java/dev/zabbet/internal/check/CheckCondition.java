package dev.zabbet.internal.check;

import dev.zabbet.schema.Check;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Consumer;
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
        return PerTable.of(table, check, CheckCondition.class, () -> read(table, check));
    }

    private static CheckCondition read(Table table, Check check) {
        try {
            Expr expr = Inlined.of(table, Parser.parse(check.text()));
            Set<String> names = new LinkedHashSet<>();
            columnsIn(expr, names);
            for (String name : names) {
                if (table.position(name) < 0) {
                    return new CheckCondition(table, check, null, "'" + name + "'");
                }
            }
            return new CheckCondition(table, check, expr, unknownFunction(expr));
        } catch (UnknownSyntaxException e) {
            return new CheckCondition(table, check, null, e.getMessage());
        }
    }

    /**
     * Returns the parts of a condition that all have to be true: other than of a constraint, unknown is not enough. Parts that
     * are not understood are left out.
     */
    public static List<CheckCondition> required(Table table, Check condition) {
        CheckCondition whole = of(table, condition);
        Expr expr = whole.expr;
        if (expr == null) {
            return List.of();
        }
        List<Expr> parts = expr instanceof Expr.And and ? and.parts() : List.of(expr);
        return parts.stream()
                .map(part -> new CheckCondition(
                        table,
                        condition,
                        new Expr.Case(List.of(
                                new Expr.When(part, new Expr.Literal(true)),
                                new Expr.When(null, new Expr.Literal(false)))),
                        unknownFunction(part)))
                .filter(part -> part.trouble().isEmpty())
                .toList();
    }

    /** Returns the constraint. */
    public Check check() {
        return check;
    }

    /** Tells whether the condition does no more than list values of a column or bound a number or a length. */
    public boolean isBounds() {
        return expr != null && isBounds(expr);
    }

    private static boolean isBounds(Expr expr) {
        if (expr instanceof Expr.And and) {
            return and.parts().stream().allMatch(CheckCondition::isBounds);
        }
        if (expr instanceof Expr.In in) {
            return in.value() instanceof Expr.ColumnRef
                    && in.choices().stream().allMatch(choice -> choice instanceof Expr.Literal);
        }
        if (expr instanceof Expr.Not not) {
            return not.part() instanceof Expr.IsNull;
        }
        if (!(expr instanceof Expr.Binary binary) || binary.operator().equals("<>")) {
            return false;
        }
        boolean length =
                binary.left() instanceof Expr.Call call && call.function().endsWith("length");
        boolean number = binary.right() instanceof Expr.Literal literal && literal.value() instanceof BigDecimal;
        return number && (length || binary.left() instanceof Expr.ColumnRef);
    }

    /** Returns the columns that are said to equal what is reckoned from others. */
    public Set<String> determined() {
        Set<String> names = new LinkedHashSet<>();
        if (expr != null) {
            determined(expr, names);
        }
        return names;
    }

    private void determined(Expr expr, Set<String> names) {
        if (expr instanceof Expr.And and) {
            and.parts().forEach(part -> determined(part, names));
        } else if (expr instanceof Expr.Binary binary && binary.operator().equals("=")) {
            Expr left = binary.left();
            Expr right = binary.right();
            Expr own = left instanceof Expr.ColumnRef ? left : right;
            Set<String> others = new LinkedHashSet<>();
            columnsIn(own == left ? right : left, others);
            if (own instanceof Expr.ColumnRef ref && !others.isEmpty() && !others.contains(ref.name())) {
                names.add(table.requireColumn(ref.name()).name());
            }
        }
    }

    /** Tells whether the condition reckons with numbers. */
    public boolean reckons() {
        return expr != null && reckons(expr);
    }

    private static boolean reckons(Expr expr) {
        boolean arithmetic = expr instanceof Expr.Binary binary
                && List.of("+", "-", "*", "/", "%").contains(binary.operator());
        return arithmetic || expr.children().stream().anyMatch(CheckCondition::reckons);
    }

    /** Returns what was not understood in the text, if anything. */
    public Optional<String> trouble() {
        return Optional.ofNullable(trouble);
    }

    /** Returns the condition, if it was understood. */
    public Optional<Expr> expr() {
        return Optional.ofNullable(expr);
    }

    /** Returns the names of the columns in the condition, as the table names them. */
    public Set<String> columns() {
        Set<String> names = new LinkedHashSet<>();
        if (expr != null) {
            columnsIn(expr, names);
        } else {
            wordsIn(check.text(), names);
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
        } catch (UnknownSyntaxException e) {
            return Verdict.NOT_UNDERSTOOD;
        }
    }

    /** Of a condition that was not understood, all words that name columns count. */
    private void wordsIn(String text, Set<String> names) {
        try {
            for (Lexer.Token token : Lexer.tokens(text)) {
                boolean name = token.type() == Lexer.Type.WORD || token.type() == Lexer.Type.QUOTED_NAME;
                if (name && table.position(token.text()) >= 0) {
                    names.add(token.text());
                }
            }
        } catch (UnknownSyntaxException e) {
            names.clear(); // not even words
        }
    }

    /**
     * Returns what the condition says about values of a column that would keep it, given the other columns' values.
     *
     * @param values gives the value of the column at a position of the table
     */
    public List<Suggestion> suggestions(Column column, IntFunction<@Nullable Object> values) {
        List<Suggestion> found = new ArrayList<>();
        if (expr != null) {
            Evaluator evaluator = new Evaluator(name -> values.apply(table.position(name)));
            suggest(expr, column, evaluator, found);
            literals(expr, found);
        } else {
            try {
                for (Lexer.Token token : Lexer.tokens(check.text())) {
                    if (token.type() == Lexer.Type.TEXT) {
                        found.add(new Suggestion.Value(token.text()));
                    } else if (token.type() == Lexer.Type.NUMBER) {
                        found.add(new Suggestion.Value(new BigDecimal(token.text())));
                        number(token.text(), found);
                    }
                }
            } catch (UnknownSyntaxException e) {
                found.clear();
            }
        }
        return found;
    }

    /** What a condition names may help although it is not clear how. */
    private static void literals(Expr expr, List<Suggestion> found) {
        if (expr instanceof Expr.Literal literal && literal.value() != null) {
            Suggestion value = new Suggestion.Value(literal.value());
            if (!found.contains(value)) {
                found.add(value);
            }
        }
        expr.children().forEach(part -> literals(part, found));
    }

    private static void number(String text, List<Suggestion> found) {
        if (text.length() < 5 && text.chars().allMatch(Character::isDigit)) {
            found.add(new Suggestion.Length(Integer.parseInt(text)));
        }
    }

    private void suggest(Expr expr, Column column, Evaluator evaluator, List<Suggestion> found) {
        for (Expr part : expr.children()) {
            suggest(part, column, evaluator, found);
        }
        if (expr instanceof Expr.Same same) {
            side(same.left(), same.right(), column, evaluator, found);
            side(same.right(), same.left(), column, evaluator, found);
        } else if (expr instanceof Expr.Binary binary) {
            side(binary.left(), binary.right(), column, evaluator, found);
            side(binary.right(), binary.left(), column, evaluator, found);
        } else if (expr instanceof Expr.In in) {
            in.choices().forEach(choice -> side(in.value(), choice, column, evaluator, found));
        } else if (expr instanceof Expr.Matches matches && mentions(matches.text(), column)) {
            Object pattern = evaluator.valueOrNull(matches.pattern());
            if (pattern != null) {
                Sampler.of(pattern.toString(), matches.regular())
                        .ifPresent(sampler -> found.add(new Suggestion.Matching(sampler)));
            }
        }
    }

    private void side(Expr own, Expr other, Column column, Evaluator evaluator, List<Suggestion> found) {
        if (!mentions(own, column)) {
            return;
        }
        Object value = evaluator.valueOrNull(other);
        if (value == null) {
            return;
        }
        if (own instanceof Expr.Binary sum && value instanceof Number) {
            // a + b = 10: what is left of 10 without the other side, and with it
            for (Expr part : List.of(sum.left(), sum.right())) {
                Object known = mentions(part, column) ? null : evaluator.valueOrNull(part);
                if (known instanceof Number number) {
                    BigDecimal total = new BigDecimal(value.toString());
                    BigDecimal one = new BigDecimal(number.toString());
                    found.add(new Suggestion.Value(total.subtract(one)));
                    found.add(new Suggestion.Value(total.add(one)));
                }
            }
        }
        if (own instanceof Expr.Call call
                && (call.function().contains("length") || call.function().equals("cardinality"))) {
            if (value instanceof Number number && number.longValue() < 100_000) {
                found.add(new Suggestion.Length(number.intValue()));
            }
        } else {
            found.add(new Suggestion.Value(value));
        }
    }

    private boolean mentions(Expr expr, Column column) {
        Set<String> names = new LinkedHashSet<>();
        columnsIn(expr, names);
        return names.stream()
                .anyMatch(name -> table.column(name).filter(column::equals).isPresent());
    }

    private static void columnsIn(Expr expr, Set<String> names) {
        each(expr, part -> {
            if (part instanceof Expr.ColumnRef column) {
                names.add(column.name());
            }
        });
    }

    /** Returns what is said of the first function that nobody here knows; null if there is none. */
    private static @Nullable String unknownFunction(Expr expr) {
        List<String> unknown = new ArrayList<>();
        each(expr, part -> {
            if (part instanceof Expr.Call call && !Functions.knows(call.function())) {
                unknown.add("the function " + call.function());
            }
        });
        return unknown.isEmpty() ? null : unknown.get(0);
    }

    private static void each(Expr expr, Consumer<Expr> work) {
        work.accept(expr);
        expr.children().forEach(part -> each(part, work));
    }
}
