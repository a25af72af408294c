package dev.zabbet.internal.check;

import dev.zabbet.internal.value.ValueEquality;
import java.math.BigDecimal;
import java.math.MathContext;
import java.math.RoundingMode;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.ZoneOffset;
import java.time.format.DateTimeParseException;
import java.util.List;
import java.util.UUID;
import java.util.function.Function;
import java.util.regex.Pattern;
import java.util.regex.PatternSyntaxException;
import org.jspecify.annotations.Nullable;

/** Evaluates a condition over the values of one row; null stands for "unknown" (ISO 9075, three-valued logic). */
final class Evaluator implements Expr.Visitor<@Nullable Object> {
    private final Function<String, @Nullable Object> columns;

    Evaluator(Function<String, @Nullable Object> columns) {
        this.columns = columns;
    }

    @Nullable
    Boolean truth(Expr expr) {
        Object value = value(expr);
        if (value == null || value instanceof Boolean) {
            return (Boolean) value;
        }
        if (value instanceof Number number) {
            return decimal(number).signum() != 0;
        }
        throw new UnknownSyntaxException("a condition that is neither true nor false");
    }

    /** Returns the value, or null if it is unknown or not understood. */
    @Nullable
    Object valueOrNull(Expr expr) {
        try {
            return value(expr);
        } catch (UnknownSyntaxException e) {
            return null;
        }
    }

    /** Returns the value; it may be unknown, but not misunderstood. */
    @Nullable
    Object requireValue(Expr expr) {
        return value(expr);
    }

    private @Nullable Object value(Expr expr) {
        return expr.accept(this);
    }

    @Override
    public @Nullable Object visitCase(Expr.Case cases) {
        for (Expr.When branch : cases.branches()) {
            if (branch.condition() == null || Boolean.TRUE.equals(truth(branch.condition()))) {
                return value(branch.result());
            }
        }
        return null;
    }

    @Override
    public Boolean visitSame(Expr.Same same) {
        Object left = value(same.left());
        Object right = value(same.right());
        return (left == null || right == null) ? left == right : compare(left, right) == 0;
    }

    @Override
    public @Nullable Object visitLiteral(Expr.Literal literal) {
        return literal.value();
    }

    @Override
    public @Nullable Object visitColumnRef(Expr.ColumnRef column) {
        return columns.apply(column.name());
    }

    @Override
    public @Nullable Boolean visitAnd(Expr.And and) {
        return junction(and.parts(), false);
    }

    @Override
    public @Nullable Boolean visitOr(Expr.Or or) {
        return junction(or.parts(), true);
    }

    @Override
    public @Nullable Boolean visitNot(Expr.Not not) {
        Boolean inner = truth(not.part());
        return inner == null ? null : !inner;
    }

    @Override
    public Boolean visitIsNull(Expr.IsNull isNull) {
        return value(isNull.value()) == null;
    }

    /** AND is settled by a false part, OR by a true one; a null part leaves the rest unknown. */
    private @Nullable Boolean junction(List<Expr> parts, boolean settling) {
        boolean unknown = false;
        UnknownSyntaxException trouble = null;
        for (Expr part : parts) {
            try {
                Boolean truth = truth(part);
                if (truth == null) {
                    unknown = true;
                } else if (truth == settling) {
                    return settling;
                }
            } catch (UnknownSyntaxException e) {
                trouble = e;
            }
        }
        if (trouble != null) {
            throw trouble;
        }
        return unknown ? null : !settling;
    }

    @Override
    public @Nullable Boolean visitIn(Expr.In in) {
        Object value = value(in.value());
        if (value == null) {
            return null;
        }
        boolean unknown = false;
        for (Expr choice : in.choices()) {
            Object other = value(choice);
            if (other == null) {
                unknown = true;
            } else if (compare(value, other) == 0) {
                return true;
            }
        }
        return unknown ? null : false;
    }

    @Override
    public @Nullable Boolean visitMatches(Expr.Matches matches) {
        Object text = value(matches.text());
        Object pattern = value(matches.pattern());
        if (text == null || pattern == null) {
            return null;
        }
        int flags = Pattern.DOTALL | (matches.ignoreCase() ? Pattern.CASE_INSENSITIVE | Pattern.UNICODE_CASE : 0);
        try {
            return matches.regular()
                    ? Pattern.compile(asJava(pattern.toString()), flags)
                            .matcher(text.toString())
                            .find()
                    : LikePattern.of(pattern.toString(), matches.ignoreCase())
                            .matcher(text.toString())
                            .matches();
        } catch (PatternSyntaxException e) {
            throw new UnknownSyntaxException("the pattern '" + pattern + "'");
        }
    }

    /** Names of classes and marks of words that databases know and Java writes in another way. */
    private static String asJava(String regular) {
        return regular.replace("[:alpha:]", "\\p{Alpha}")
                .replace("[:alnum:]", "\\p{Alnum}")
                .replace("[:digit:]", "\\d")
                .replace("[:xdigit:]", "\\p{XDigit}")
                .replace("[:upper:]", "\\p{Upper}")
                .replace("[:lower:]", "\\p{Lower}")
                .replace("[:space:]", "\\s")
                .replace("[:blank:]", "\\h")
                .replace("[:punct:]", "\\p{Punct}")
                .replace("\\y", "\\b")
                .replace("\\m", "\\b")
                .replace("\\M", "\\b");
    }

    @Override
    public @Nullable Object visitBinary(Expr.Binary binary) {
        Object left = value(binary.left());
        Object right = value(binary.right());
        if (left == null || right == null) {
            return null;
        }
        String operator = binary.operator();
        return switch (operator) {
            case "=" -> compare(left, right) == 0;
            case "<>" -> compare(left, right) != 0;
            case "<" -> compare(left, right) < 0;
            case ">" -> compare(left, right) > 0;
            case "<=" -> compare(left, right) <= 0;
            case ">=" -> compare(left, right) >= 0;
            case "||" -> left.toString() + right;
            default -> arithmetic(operator, left, right);
        };
    }

    static Object arithmetic(String operator, Object left, Object right) {
        if (!(left instanceof Number) || !(right instanceof Number)) {
            throw new UnknownSyntaxException("'" + operator + "' on something that is no number");
        }
        BigDecimal a = decimal(left);
        BigDecimal b = decimal(right);
        if ((operator.equals("/") || operator.equals("%")) && b.signum() == 0) {
            throw new UnknownSyntaxException("a division by zero");
        }
        return switch (operator) {
            case "+" -> a.add(b);
            case "-" -> a.subtract(b);
            case "*" -> a.multiply(b);
            case "%" -> a.remainder(b);
            case "/" ->
                a.scale() <= 0 && b.scale() <= 0
                        ? a.divide(b, 0, RoundingMode.DOWN)
                        : a.divide(b, MathContext.DECIMAL64);
            default -> throw new UnknownSyntaxException("'" + operator + "'");
        };
    }

    @Override
    public @Nullable Object visitCall(Expr.Call call) {
        List<@Nullable Object> arguments =
                call.arguments().stream().<@Nullable Object>map(this::value).toList();
        return Functions.call(call.function(), arguments);
    }

    static int compare(Object left, Object right) {
        if (left instanceof Number && right instanceof Number) {
            return decimal(left).compareTo(decimal(right));
        }
        if (left instanceof Boolean || right instanceof Boolean) {
            return Boolean.compare(bool(left), bool(right));
        }
        if (left instanceof CharSequence && right instanceof CharSequence) {
            return left.toString().compareTo(right.toString());
        }
        try {
            if (left instanceof Number || right instanceof Number) {
                return decimal(left).compareTo(decimal(right));
            }
            if (left instanceof UUID || right instanceof UUID) {
                return left.toString().compareToIgnoreCase(right.toString());
            }
            if (left instanceof LocalTime || right instanceof LocalTime) {
                return LocalTime.parse(left.toString()).compareTo(LocalTime.parse(right.toString()));
            }
            return dateTime(left).compareTo(dateTime(right));
        } catch (DateTimeParseException | NumberFormatException e) {
            throw new UnknownSyntaxException("a comparison of " + left + " with " + right);
        }
    }

    private static boolean bool(Object value) {
        return value instanceof Boolean b
                ? b
                : ValueEquality.values(value, BigDecimal.ONE)
                        || value.toString().equals("true");
    }

    private static LocalDateTime dateTime(Object value) {
        if (value instanceof LocalDateTime dateTime) {
            return dateTime;
        }
        if (value instanceof LocalDate date) {
            return date.atStartOfDay();
        }
        if (value instanceof Instant instant) {
            return LocalDateTime.ofInstant(instant, ZoneOffset.UTC);
        }
        String iso = value.toString().replace(' ', 'T');
        return iso.indexOf('T') < 0 ? LocalDate.parse(iso).atStartOfDay() : LocalDateTime.parse(iso);
    }

    static BigDecimal decimal(Object number) {
        return number instanceof BigDecimal d ? d : new BigDecimal(number.toString());
    }
}
