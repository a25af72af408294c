package dev.zabbet.internal.fake;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.check.CheckCondition;
import dev.zabbet.internal.check.Constant;
import dev.zabbet.internal.check.Expr;
import dev.zabbet.internal.check.Formula;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import dev.zabbet.store.Condition.Comparison;
import dev.zabbet.type.Kind;
import java.time.Clock;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/** What a provider does by SQL that stands in annotations of an entity: which rows it finds, and how it deletes one. */
final class Restriction {
    private static final Pattern UPDATE =
            Pattern.compile("(?is)\\s*update\\s+\\S+(?:\\s+\\w+)??\\s+set\\s+(.+?)\\s+where\\s+([^?]*\\?.*)");
    private static final Pattern BY_KEY =
            Pattern.compile("(?is)[\\w.\"`]+\\s*=\\s*\\?(\\s+and\\s+[\\w.\"`]+\\s*=\\s*\\?)*\\s*;?\\s*");
    private static final Pattern ASSIGNMENT = Pattern.compile("(?s)\\s*[\"`]?([\\w.]+)[\"`]?\\s*=\\s*(.+?)\\s*");
    private static final Pattern COMMA = Pattern.compile(",(?=(?:[^']*'[^']*')*[^']*$)(?![^(]*\\))");
    private static final Pattern NOW = Pattern.compile(
            "(?i)(now|current_timestamp|localtimestamp|current_date|curdate|sysdate)(\\(\\s*\\d*\\s*\\))?");

    private Restriction() {}

    /**
     * Returns the condition of a restriction: for which rows it is true.
     *
     * @throws ZabbetException if it says more than comparisons of columns with constants
     */
    static Condition condition(String text, Class<?> type, Table table) {
        Expr expr = CheckCondition.of(table, new Check("restriction of " + table.name(), text))
                .expr()
                .orElseThrow(() -> notUnderstood("restriction", text, type));
        Condition condition = expr.accept(new Said(table));
        if (condition == null) {
            throw notUnderstood("restriction", text, type);
        }
        return condition;
    }

    private static ZabbetException notUnderstood(String what, String text, Class<?> type) {
        return new ZabbetException("The " + what + " of " + type.getSimpleName() + ", \"" + text
                + "\", is more than fakes understand. Have this test run on a database, where the provider does it.");
    }

    /** What a text says, as a condition; null where that is more than conditions can say. */
    private record Said(Table table) implements Expr.Visitor<@Nullable Condition> {
        @Override
        public @Nullable Condition visitAnd(Expr.And and) {
            List<Condition> parts = all(and.parts());
            return parts == null ? null : new Condition.And(parts);
        }

        @Override
        public @Nullable Condition visitOr(Expr.Or or) {
            List<Condition> parts = all(or.parts());
            return parts == null ? null : new Condition.Or(parts);
        }

        @Override
        public @Nullable Condition visitNot(Expr.Not not) {
            Condition part = not.part().accept(this);
            return part == null ? null : new Condition.Not(part);
        }

        @Override
        public @Nullable Condition visitIsNull(Expr.IsNull isNull) {
            return isNull.value() instanceof Expr.ColumnRef column
                    ? new Condition.Equal(column(column, table).name(), null)
                    : null;
        }

        @Override
        public @Nullable Condition visitColumnRef(Expr.ColumnRef column) {
            return equal(column(column, table), true);
        }

        @Override
        public @Nullable Condition visitIn(Expr.In in) {
            return in.value() instanceof Expr.ColumnRef column ? oneOf(column(column, table), in.choices()) : null;
        }

        @Override
        public @Nullable Condition visitMatches(Expr.Matches matches) {
            return !matches.regular()
                            && matches.text() instanceof Expr.ColumnRef column
                            && matches.pattern() instanceof Expr.Literal pattern
                    ? new Condition.Like(
                            column(column, table).name(), String.valueOf(pattern.value()), matches.ignoreCase())
                    : null;
        }

        @Override
        public @Nullable Condition visitBinary(Expr.Binary binary) {
            if (binary.left() instanceof Expr.ColumnRef column && binary.right() instanceof Expr.Literal literal) {
                return compared(column(column, table), binary.operator(), literal.value());
            }
            if (binary.right() instanceof Expr.ColumnRef column && binary.left() instanceof Expr.Literal literal) {
                return compared(column(column, table), turned(binary.operator()), literal.value());
            }
            return null;
        }

        @Override
        public @Nullable Condition visitLiteral(Expr.Literal literal) {
            return null;
        }

        @Override
        public @Nullable Condition visitCall(Expr.Call call) {
            return null;
        }

        @Override
        public @Nullable Condition visitCase(Expr.Case cases) {
            return null;
        }

        @Override
        public @Nullable Condition visitSame(Expr.Same same) {
            return null;
        }

        private @Nullable List<Condition> all(List<Expr> parts) {
            List<Condition> conditions = new ArrayList<>();
            for (Expr part : parts) {
                Condition condition = part.accept(this);
                if (condition == null) {
                    return null;
                }
                conditions.add(condition);
            }
            return conditions;
        }
    }

    private static Column column(Expr.ColumnRef ref, Table table) {
        return table.requireColumn(ref.name());
    }

    /** A number stands for an answer where databases keep it so: {@code deleted = 0}. */
    private static @Nullable Object canonical(Column column, @Nullable Object value) {
        return column.type().kind() == Kind.BOOLEAN && value instanceof Number number
                ? (Object) (number.intValue() != 0)
                : EntityType.canonical(column, value);
    }

    private static Condition equal(Column column, Object value) {
        return new Condition.Equal(column.name(), canonical(column, value));
    }

    private static @Nullable Condition oneOf(Column column, List<Expr> choices) {
        List<@Nullable Object> values = new ArrayList<>();
        for (Expr choice : choices) {
            if (!(choice instanceof Expr.Literal literal) || literal.value() == null) {
                return null;
            }
            values.add(canonical(column, literal.value()));
        }
        return new Condition.OneOf(column.name(), values);
    }

    /** A comparison with null is true of no row. */
    private static @Nullable Condition compared(Column column, String operator, @Nullable Object value) {
        Object canonical = canonical(column, value);
        if (canonical == null) {
            return new Condition.Or(List.of());
        }
        if (operator.equals("=")) {
            return new Condition.Equal(column.name(), canonical);
        }
        for (Comparison comparison : Comparison.values()) {
            if (comparison.sql().equals(operator)) {
                return new Condition.Compared(column.name(), comparison, canonical);
            }
        }
        return null;
    }

    private static String turned(String operator) {
        return switch (operator) {
            case "<" -> ">";
            case ">" -> "<";
            case "<=" -> ">=";
            case ">=" -> "<=";
            default -> operator;
        };
    }

    /**
     * Returns what the statement sets that runs in place of a DELETE; empty if it deletes the row after all.
     *
     * @param clock tells the present; null if nothing is stored
     * @throws ZabbetException if it does more than setting columns of the one row
     */
    static Optional<Row> deletion(String sql, Class<?> type, Table table, @Nullable Clock clock) {
        Matcher update = UPDATE.matcher(sql);
        if (sql.strip().regionMatches(true, 0, "delete", 0, 6)) {
            return Optional.empty();
        }
        if (!update.matches() || !BY_KEY.matcher(update.group(2)).matches()) {
            throw notUnderstood("deletion", sql, type);
        }
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        for (String one : COMMA.split(update.group(1))) {
            Matcher assignment = ASSIGNMENT.matcher(one);
            if (!assignment.matches()) {
                throw notUnderstood("deletion", sql, type);
            }
            String name = assignment.group(1);
            Column column = table.column(name.substring(name.lastIndexOf('.') + 1))
                    .orElseThrow(() -> notUnderstood("deletion", sql, type));
            values.put(
                    column.name(),
                    value(assignment.group(2), column, clock)
                            .orElseThrow(() -> notUnderstood("deletion", sql, type))
                            .value());
        }
        return Optional.of(Row.of(values));
    }

    private static Optional<Formula.Result> value(String text, Column column, @Nullable Clock clock) {
        if (NOW.matcher(text).matches()) {
            Clock used = clock == null ? Clock.systemUTC() : clock;
            return Optional.of(new Formula.Result(
                    switch (column.type().kind()) {
                        case DATE -> java.time.LocalDate.now(used);
                        case TIMESTAMP -> java.time.LocalDateTime.now(used);
                        default -> used.instant();
                    }));
        }
        return Constant.of(text).map(constant -> new Formula.Result(canonical(column, constant.value())));
    }
}
