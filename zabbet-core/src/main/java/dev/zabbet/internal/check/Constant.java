package dev.zabbet.internal.check;

import dev.zabbet.internal.value.CanonicalForm;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.schema.Column;
import java.util.Optional;

/** Expressions and defaults that are constants. */
public final class Constant {
    private Constant() {}

    /** Returns the value of a constant expression; empty if the expression is not constant. */
    public static Optional<Formula.Result> of(String text) {
        try {
            return Parser.parse(text) instanceof Expr.Literal literal
                    ? Optional.of(new Formula.Result(literal.value()))
                    : Optional.empty();
        } catch (UnknownSyntaxException e) {
            return Optional.empty();
        }
    }

    /** Returns the value of a column's constant default, in the column's form in memory; empty if there is none, or if it is null. */
    public static Optional<Object> ofDefault(Column column) {
        if (column.defaultText().isEmpty()) {
            return Optional.empty();
        }
        try {
            return Parser.parse(column.defaultText().get()) instanceof Expr.Literal literal && literal.value() != null
                    ? Optional.ofNullable(CanonicalForm.of(column.type(), literal.value()))
                    : Optional.empty();
        } catch (UnknownSyntaxException | InexactValueException e) {
            return Optional.empty();
        }
    }

    /** Tells whether the default is the word NULL. */
    public static boolean isNull(Column column) {
        return column.defaultText()
                .map(text -> text.strip().toLowerCase(java.util.Locale.ROOT))
                .filter(text -> text.equals("null") || text.startsWith("null::"))
                .isPresent();
    }
}
