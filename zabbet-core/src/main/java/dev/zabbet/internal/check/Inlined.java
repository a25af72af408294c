package dev.zabbet.internal.check;

import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * Puts the expression of a computed column where a condition names the column, so that the condition speaks of what can be
 * written.
 */
final class Inlined implements Expr.Visitor<Expr> {
    /** A computed column may be computed from another one, but not without end. */
    private static final int DEPTH = 8;

    private final Table table;
    private final int depth;

    private Inlined(Table table, int depth) {
        this.table = table;
        this.depth = depth;
    }

    /** Returns the condition without computed columns, as far as their expressions are known and understood. */
    static Expr of(Table table, Expr condition) {
        return table.columns().stream().anyMatch(Column::isComputed)
                ? new Inlined(table, DEPTH).in(condition)
                : condition;
    }

    private Expr in(Expr expr) {
        return Objects.requireNonNull(expr.accept(this));
    }

    @Override
    public Expr visitLiteral(Expr.Literal literal) {
        return literal;
    }

    @Override
    public Expr visitColumnRef(Expr.ColumnRef column) {
        return expressionOf(column).orElse(column);
    }

    @Override
    public Expr visitCall(Expr.Call call) {
        return new Expr.Call(call.function(), in(call.arguments()));
    }

    @Override
    public Expr visitBinary(Expr.Binary binary) {
        return new Expr.Binary(binary.operator(), in(binary.left()), in(binary.right()));
    }

    @Override
    public Expr visitAnd(Expr.And and) {
        return new Expr.And(in(and.parts()));
    }

    @Override
    public Expr visitOr(Expr.Or or) {
        return new Expr.Or(in(or.parts()));
    }

    @Override
    public Expr visitNot(Expr.Not not) {
        return new Expr.Not(in(not.part()));
    }

    @Override
    public Expr visitIn(Expr.In in) {
        return new Expr.In(in(in.value()), in(in.choices()));
    }

    @Override
    public Expr visitIsNull(Expr.IsNull isNull) {
        return new Expr.IsNull(in(isNull.value()));
    }

    @Override
    public Expr visitMatches(Expr.Matches matches) {
        return new Expr.Matches(in(matches.text()), in(matches.pattern()), matches.regular(), matches.ignoreCase());
    }

    @Override
    public Expr visitCase(Expr.Case cases) {
        return new Expr.Case(cases.branches().stream()
                .map(branch -> new Expr.When(inOrNull(branch.condition()), in(branch.result())))
                .toList());
    }

    @Override
    public Expr visitSame(Expr.Same same) {
        return new Expr.Same(in(same.left()), in(same.right()));
    }

    private List<Expr> in(List<Expr> parts) {
        return parts.stream().map(this::in).toList();
    }

    private @Nullable Expr inOrNull(@Nullable Expr expr) {
        return expr == null ? null : in(expr);
    }

    private Optional<Expr> expressionOf(Expr.ColumnRef reference) {
        Optional<String> text = table.position(reference.name()) < 0
                ? Optional.empty()
                : table.column(reference.name()).filter(Column::isComputed).flatMap(Column::defaultText);
        if (text.isEmpty() || depth == 0) {
            return Optional.empty();
        }
        try {
            return Optional.of(new Inlined(table, depth - 1).in(Parser.parse(text.get())));
        } catch (UnknownSyntaxException e) {
            return Optional.empty();
        }
    }
}
