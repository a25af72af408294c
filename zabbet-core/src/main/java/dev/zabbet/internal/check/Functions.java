package dev.zabbet.internal.check;

import java.math.BigDecimal;
import java.math.RoundingMode;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import java.util.regex.Pattern;
import java.util.regex.PatternSyntaxException;
import org.jspecify.annotations.Nullable;

/** The functions of conditions that mean the same in the databases that know them. */
final class Functions {
    private static final Set<String> NAMES = Set.of(
            "abs",
            "array_length",
            "btrim",
            "cardinality",
            "cast_to_whole",
            "ceil",
            "ceiling",
            "char_length",
            "character_length",
            "coalesce",
            "concat",
            "date",
            "date_part",
            "date_trunc",
            "floor",
            "glob_to_regular",
            "greatest",
            "greatest_of_all",
            "ifnull",
            "instr",
            DocumentSchemas.VALID,
            "lcase",
            "least",
            "least_of_all",
            "left",
            "len",
            "length",
            "like_escape",
            "locate",
            "lower",
            "ltrim",
            "mod",
            "nullif",
            "num_nonnulls",
            "num_nulls",
            "nvl",
            "octet_length",
            "position",
            "regexp",
            "regexp_like",
            "replace",
            "right",
            "round",
            "rtrim",
            "sign",
            "similar_to_escape",
            "strpos",
            "substr",
            "substring",
            "trim",
            "ucase",
            "upper");

    private Functions() {}

    /** Tells whether a function of this name has a meaning here, at least for some arguments. */
    static boolean knows(String function) {
        return NAMES.contains(function) || Moments.isField(function);
    }

    static @Nullable Object call(String function, List<@Nullable Object> arguments) {
        switch (function) {
            case "coalesce", "ifnull", "nvl":
                return arguments.stream().filter(a -> a != null).findFirst().orElse(null);
            case "num_nonnulls":
                return count(arguments, false);
            case "num_nulls":
                return count(arguments, true);
            case "nullif":
                Object a = arguments.get(0);
                Object b = arguments.get(1);
                return a != null && b != null && Evaluator.compare(a, b) == 0 ? null : a;
            case "concat":
                StringBuilder joined = new StringBuilder();
                arguments.stream().filter(x -> x != null).forEach(joined::append);
                return joined.toString();
            case "greatest_of_all", "least_of_all":
                return arguments.contains(null) ? null : extreme(function.startsWith("greatest"), arguments);
            case "greatest", "least":
                return extreme(function.equals("greatest"), arguments);
            default:
        }
        if (arguments.isEmpty()) {
            throw new UnknownSyntaxException("the function " + function);
        }
        if (arguments.contains(null)) {
            return null;
        }
        Object first = arguments.get(0);
        return arguments.size() == 1 ? ofOne(function, first) : ofMore(function, first, arguments);
    }

    private static String trimmed(String function, String text, char away) {
        int from = 0;
        int to = text.length();
        while (!function.equals("rtrim") && from < to && text.charAt(from) == away) {
            from++;
        }
        while (!function.equals("ltrim") && to > from && text.charAt(to - 1) == away) {
            to--;
        }
        return text.substring(from, to);
    }

    private static BigDecimal count(List<@Nullable Object> arguments, boolean nulls) {
        return BigDecimal.valueOf(
                arguments.stream().filter(a -> (a == null) == nulls).count());
    }

    private static @Nullable Object extreme(boolean greatest, List<@Nullable Object> arguments) {
        Object found = null;
        for (Object argument : arguments) {
            if (argument != null && (found == null || (Evaluator.compare(argument, found) > 0) == greatest)) {
                found = argument;
            }
        }
        return found;
    }

    private static Object ofOne(String function, Object first) {
        String text = String.valueOf(first);
        return switch (function) {
            case "length", "char_length", "character_length", "len" ->
                first instanceof byte[] bytes
                        ? BigDecimal.valueOf(bytes.length)
                        : BigDecimal.valueOf(text.codePointCount(0, text.length()));
            case "octet_length" ->
                BigDecimal.valueOf(
                        first instanceof byte[] bytes ? bytes.length : text.getBytes(StandardCharsets.UTF_8).length);
            case "lower", "lcase" -> text.toLowerCase(Locale.ROOT);
            case "upper", "ucase" -> text.toUpperCase(Locale.ROOT);
            case "trim", "btrim", "ltrim", "rtrim" -> trimmed(function, text, ' ');
            case "cast_to_whole" ->
                first instanceof Number
                        ? Evaluator.decimal(number(function, first)).setScale(0, RoundingMode.HALF_UP)
                        : first;
            case "glob_to_regular" -> "^(?:" + glob(text) + ")$";
            case "similar_to_escape" -> "^(?:" + similar(text) + ")$";
            case "abs" -> Evaluator.decimal(number(function, first)).abs();
            case "floor" -> Evaluator.decimal(number(function, first)).setScale(0, RoundingMode.FLOOR);
            case "ceil", "ceiling" -> Evaluator.decimal(number(function, first)).setScale(0, RoundingMode.CEILING);
            case "round" -> Evaluator.decimal(number(function, first)).setScale(0, RoundingMode.HALF_UP);
            case "sign" ->
                BigDecimal.valueOf(Evaluator.decimal(number(function, first)).signum());
            case "cardinality" -> BigDecimal.valueOf(list(function, first).size());
            case "date" -> Moments.date(function, first);
            default -> {
                if (Moments.isField(function)) {
                    yield Moments.field(function, first);
                }
                throw new UnknownSyntaxException("the function " + function);
            }
        };
    }

    private static @Nullable Object ofMore(String function, Object first, List<@Nullable Object> arguments) {
        Object second = java.util.Objects.requireNonNull(arguments.get(1));
        String text = String.valueOf(first);
        switch (function) {
            case "date_trunc":
                return Moments.truncated(text, second);
            case "date_part":
                return Moments.field(text.toLowerCase(Locale.ROOT), second);
            case "trim", "btrim", "ltrim", "rtrim":
                if (second.toString().length() == 1) { // of more, databases take away each, or all as they stand
                    return trimmed(function, text, second.toString().charAt(0));
                }
                break;
            case "mod":
                return Evaluator.arithmetic("%", first, second);
            case DocumentSchemas.VALID:
                return DocumentSchemas.isValid(text, second.toString());
            case "left":
                return text.substring(0, Math.min(text.length(), whole(second)));
            case "right":
                return text.substring(Math.max(0, text.length() - whole(second)));
            case "substr", "substring":
                if (whole(second) < 1) {
                    break; // counted from the end, or before the beginning: not the same everywhere
                }
                int from = whole(second) - 1;
                int to = arguments.size() > 2
                        ? from + whole(java.util.Objects.requireNonNull(arguments.get(2)))
                        : text.length();
                return text.substring(Math.min(from, text.length()), Math.min(Math.max(to, from), text.length()));
            case "like_escape":
                return LikePattern.escaped(text, second.toString());
            case "position", "locate", "instr", "strpos":
                if (arguments.size() > 2) {
                    break;
                }
                boolean needleFirst = function.equals("position") || function.equals("locate");
                return BigDecimal.valueOf(
                        (needleFirst ? second.toString().indexOf(text) : text.indexOf(second.toString())) + 1);
            case "replace":
                if (arguments.size() == 3) {
                    return text.replace(second.toString(), String.valueOf(arguments.get(2)));
                }
                break;
            case "regexp_like", "regexp":
                try {
                    return Pattern.compile(second.toString()).matcher(text).find();
                } catch (PatternSyntaxException e) {
                    throw new UnknownSyntaxException("the pattern '" + second + "'");
                }
            case "array_length":
                int size = list(function, first).size();
                return size == 0 ? null : BigDecimal.valueOf(size); // of an empty array it is null
            case "round":
                return Evaluator.decimal(number(function, first)).setScale(whole(second), RoundingMode.HALF_UP);
            default:
        }
        throw new UnknownSyntaxException("the function " + function);
    }

    /** The pattern of SQLite's GLOB, which is a shell's, as a regular expression. */
    private static String glob(String pattern) {
        StringBuilder regular = new StringBuilder();
        boolean inBrackets = false;
        for (int i = 0; i < pattern.length(); i++) {
            char c = pattern.charAt(i);
            inBrackets = c == '[' || (inBrackets && c != ']');
            if (inBrackets || c == ']') {
                regular.append(c);
            } else if (c == '*') {
                regular.append(".*");
            } else if (c == '?') {
                regular.append('.');
            } else if (Character.isLetterOrDigit(c) || c == ' ') {
                regular.append(c);
            } else {
                regular.append('\\').append(c);
            }
        }
        return regular.toString();
    }

    /** The pattern of SIMILAR TO (SQL:2016, 8.6) as a regular expression: only the wildcards differ. */
    private static String similar(String pattern) {
        StringBuilder regular = new StringBuilder();
        boolean inBrackets = false;
        for (int i = 0; i < pattern.length(); i++) {
            char c = pattern.charAt(i);
            if (c == '\\' && i + 1 < pattern.length()) {
                regular.append(c).append(pattern.charAt(++i));
                continue;
            }
            inBrackets = c == '[' || (inBrackets && c != ']');
            if (!inBrackets && c == '%') {
                regular.append(".*");
            } else if (!inBrackets && c == '_') {
                regular.append('.');
            } else if (!inBrackets && (c == '.' || c == '^' || c == '$')) {
                regular.append('\\').append(c);
            } else {
                regular.append(c);
            }
        }
        return regular.toString();
    }

    private static Number number(String function, Object value) {
        if (value instanceof Number number) {
            return number;
        }
        throw new UnknownSyntaxException(function + " of something that is no number");
    }

    private static int whole(Object value) {
        return number("a length", value).intValue();
    }

    private static List<?> list(String function, Object value) {
        if (value instanceof List<?> list) {
            return list;
        }
        throw new UnknownSyntaxException(function + " of something that is no array");
    }
}
