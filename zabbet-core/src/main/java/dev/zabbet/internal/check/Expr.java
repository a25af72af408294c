package dev.zabbet.internal.check;

import java.util.List;
import org.jspecify.annotations.Nullable;

/** A condition or a part of one. */
public sealed interface Expr {
    /** A constant: a BigDecimal, String, Boolean or null. */
    record Literal(@Nullable Object value) implements Expr {}

    /** The value of a column, named as in the text. */
    record ColumnRef(String name) implements Expr {}

    /** A function, named in lower case. */
    record Call(String function, List<Expr> arguments) implements Expr {}

    /** An arithmetic, text or comparing operator: {@code + - * / % || = <> < > <= >=}. */
    record Binary(String operator, Expr left, Expr right) implements Expr {}

    /** All parts hold. */
    record And(List<Expr> parts) implements Expr {}

    /** At least one part holds. */
    record Or(List<Expr> parts) implements Expr {}

    /** The part doesn't hold. */
    record Not(Expr part) implements Expr {}

    /** The value equals one of the choices. */
    record In(Expr value, List<Expr> choices) implements Expr {}

    /** The value is null. */
    record IsNull(Expr value) implements Expr {}

    /** The text matches the pattern: of LIKE, or a regular expression. */
    record Matches(Expr text, Expr pattern, boolean regular, boolean ignoreCase) implements Expr {}

    /** The first result whose condition holds, else the last; a null condition of the pair stands for ELSE. */
    record Case(List<When> branches) implements Expr {
        /** Returns all conditions and results. */
        public List<Expr> parts() {
            List<Expr> parts = new java.util.ArrayList<>();
            branches.forEach(branch -> {
                if (branch.condition() != null) {
                    parts.add(branch.condition());
                }
                parts.add(branch.result());
            });
            return parts;
        }
    }

    /** A branch of CASE. */
    record When(@Nullable Expr condition, Expr result) {}

    /** The two are equal, or both null. */
    record Same(Expr left, Expr right) implements Expr {}
}
