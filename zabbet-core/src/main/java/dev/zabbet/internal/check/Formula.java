package dev.zabbet.internal.check;

import dev.zabbet.schema.Table;
import java.util.Optional;
import java.util.function.IntFunction;
import org.jspecify.annotations.Nullable;

/** An SQL expression over the columns of one table, read so that its value can be told. Immutable. */
public final class Formula {
    private final Table table;
    private final Expr expr;

    private Formula(Table table, Expr expr) {
        this.table = table;
        this.expr = expr;
    }

    /** What an expression gave. */
    public record Result(@Nullable Object value) {}

    /** Reads an expression; empty if it is not understood. */
    public static Optional<Formula> of(Table table, String text) {
        try {
            return Optional.of(new Formula(table, Parser.parse(text)));
        } catch (UnknownSyntaxException e) {
            return Optional.empty();
        }
    }

    /**
     * Returns the value: a BigDecimal, text, Boolean, time or null; empty if a part of it is not understood.
     *
     * @param values gives the value of the column at a position of the table
     */
    public Optional<Result> value(IntFunction<@Nullable Object> values) {
        try {
            return Optional.of(new Result(new Evaluator(name -> {
                        int at = table.position(name);
                        if (at < 0) {
                            throw new UnknownSyntaxException("'" + name + "'");
                        }
                        return values.apply(at);
                    })
                    .requireValue(expr)));
        } catch (UnknownSyntaxException e) {
            return Optional.empty();
        }
    }
}
