package dev.zabbet.internal.check;

import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** A condition or a part of one. */
public sealed interface Expr {
    /** Does something of its own for each kind of expression, so that none can be forgotten. */
    interface Visitor<R extends @Nullable Object> {
        @Nullable
        R visitLiteral(Literal literal);

        @Nullable
        R visitColumnRef(ColumnRef column);

        @Nullable
        R visitCall(Call call);

        @Nullable
        R visitBinary(Binary binary);

        @Nullable
        R visitAnd(And and);

        @Nullable
        R visitOr(Or or);

        @Nullable
        R visitNot(Not not);

        @Nullable
        R visitIn(In in);

        @Nullable
        R visitIsNull(IsNull isNull);

        @Nullable
        R visitMatches(Matches matches);

        @Nullable
        R visitCase(Case cases);

        @Nullable
        R visitSame(Same same);
    }

    /** Lets a visitor do what it does for an expression of this kind. */
    <R extends @Nullable Object> @Nullable R accept(Visitor<R> visitor);

    /** Returns the expressions that this one is made of, without theirs. */
    List<Expr> children();

    /** A constant: a BigDecimal, String, Boolean or null. */
    record Literal(@Nullable Object value) implements Expr {
        @Override
        public <R extends @Nullable Object> @Nullable R accept(Visitor<R> visitor) {
            return visitor.visitLiteral(this);
        }

        @Override
        public List<Expr> children() {
            return List.of();
        }
    }

    /** The value of a column, named as in the text. */
    record ColumnRef(String name) implements Expr {
        @Override
        public <R extends @Nullable Object> @Nullable R accept(Visitor<R> visitor) {
            return visitor.visitColumnRef(this);
        }

        @Override
        public List<Expr> children() {
            return List.of();
        }
    }

    /** A function, named in lower case. */
    record Call(String function, List<Expr> arguments) implements Expr {
        @Override
        public <R extends @Nullable Object> @Nullable R accept(Visitor<R> visitor) {
            return visitor.visitCall(this);
        }

        @Override
        public List<Expr> children() {
            return arguments;
        }
    }

    /** An arithmetic, text or comparing operator: {@code + - * / % || = <> < > <= >=}. */
    record Binary(String operator, Expr left, Expr right) implements Expr {
        @Override
        public <R extends @Nullable Object> @Nullable R accept(Visitor<R> visitor) {
            return visitor.visitBinary(this);
        }

        @Override
        public List<Expr> children() {
            return List.of(left, right);
        }
    }

    /** All parts hold. */
    record And(List<Expr> parts) implements Expr {
        @Override
        public <R extends @Nullable Object> @Nullable R accept(Visitor<R> visitor) {
            return visitor.visitAnd(this);
        }

        @Override
        public List<Expr> children() {
            return parts;
        }
    }

    /** At least one part holds. */
    record Or(List<Expr> parts) implements Expr {
        @Override
        public <R extends @Nullable Object> @Nullable R accept(Visitor<R> visitor) {
            return visitor.visitOr(this);
        }

        @Override
        public List<Expr> children() {
            return parts;
        }
    }

    /** The part doesn't hold. */
    record Not(Expr part) implements Expr {
        @Override
        public <R extends @Nullable Object> @Nullable R accept(Visitor<R> visitor) {
            return visitor.visitNot(this);
        }

        @Override
        public List<Expr> children() {
            return List.of(part);
        }
    }

    /** The value equals one of the choices. */
    record In(Expr value, List<Expr> choices) implements Expr {
        @Override
        public <R extends @Nullable Object> @Nullable R accept(Visitor<R> visitor) {
            return visitor.visitIn(this);
        }

        @Override
        public List<Expr> children() {
            List<Expr> children = new ArrayList<>(choices);
            children.add(value);
            return children;
        }
    }

    /** The value is null. */
    record IsNull(Expr value) implements Expr {
        @Override
        public <R extends @Nullable Object> @Nullable R accept(Visitor<R> visitor) {
            return visitor.visitIsNull(this);
        }

        @Override
        public List<Expr> children() {
            return List.of(value);
        }
    }

    /** The text matches the pattern: of LIKE, or a regular expression. */
    record Matches(Expr text, Expr pattern, boolean regular, boolean ignoreCase) implements Expr {
        @Override
        public <R extends @Nullable Object> @Nullable R accept(Visitor<R> visitor) {
            return visitor.visitMatches(this);
        }

        @Override
        public List<Expr> children() {
            return List.of(text, pattern);
        }
    }

    /** The first result whose condition holds, else the last; a null condition of the pair stands for ELSE. */
    record Case(List<When> branches) implements Expr {
        @Override
        public <R extends @Nullable Object> @Nullable R accept(Visitor<R> visitor) {
            return visitor.visitCase(this);
        }

        @Override
        public List<Expr> children() {
            List<Expr> children = new ArrayList<>();
            branches.forEach(branch -> {
                if (branch.condition() != null) {
                    children.add(branch.condition());
                }
                children.add(branch.result());
            });
            return children;
        }
    }

    /** A branch of CASE. */
    record When(@Nullable Expr condition, Expr result) {}

    /** The two are equal, or both null. */
    record Same(Expr left, Expr right) implements Expr {
        @Override
        public <R extends @Nullable Object> @Nullable R accept(Visitor<R> visitor) {
            return visitor.visitSame(this);
        }

        @Override
        public List<Expr> children() {
            return List.of(left, right);
        }
    }
}
