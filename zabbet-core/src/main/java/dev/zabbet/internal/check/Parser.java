package dev.zabbet.internal.check;

import dev.zabbet.internal.check.Lexer.Token;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Set;

/** Reads a condition as H2, PostgreSQL, MariaDB and SQLite report it. */
final class Parser {
    private final SpecialForms special = new SpecialForms(this);
    private static final Set<String> COMPARING = Set.of("=", "<>", "!=", "<", ">", "<=", ">=");

    final List<Token> tokens;

    int at;

    private Parser(List<Token> tokens) {
        this.tokens = tokens;
    }

    /**
     * Reads a whole condition.
     *
     * @throws UnknownSyntaxException if the text is no condition that this parser knows
     */
    static Expr parse(String text) {
        Parser parser = new Parser(Lexer.tokens(text));
        Expr expr = parser.or();
        if (parser.peek().type() != Lexer.Type.END) {
            throw new UnknownSyntaxException("'" + parser.peek().text() + "'");
        }
        return expr;
    }

    Expr or() {
        Expr first = either();
        while (skip("xor")) {
            Expr second = either();
            first = new Expr.Or(List.of(
                    new Expr.And(List.of(first, new Expr.Not(second))),
                    new Expr.And(List.of(new Expr.Not(first), second))));
        }
        return first;
    }

    private Expr either() {
        List<Expr> parts = new ArrayList<>(List.of(and()));
        while (skip("or")) {
            parts.add(and());
        }
        return parts.size() == 1 ? parts.get(0) : new Expr.Or(List.copyOf(parts));
    }

    private Expr and() {
        List<Expr> parts = new ArrayList<>(List.of(not()));
        while (skip("and")) {
            parts.add(not());
        }
        return parts.size() == 1 ? parts.get(0) : new Expr.And(List.copyOf(parts));
    }

    private Expr not() {
        return skip("not") ? new Expr.Not(not()) : comparison();
    }

    private Expr comparison() {
        Expr left = sum();
        while (true) {
            if (skip("is")) {
                left = is(left);
                continue;
            }
            boolean negated = peek().is("not")
                    && List.of("in", "like", "between", "ilike", "regexp", "rlike", "glob").stream()
                            .anyMatch(word -> peek(1).is(word));
            if (negated) {
                at++;
            }
            Expr predicate = predicate(left);
            if (predicate == left) {
                return left;
            }
            left = negated ? new Expr.Not(predicate) : predicate;
        }
    }

    private Expr is(Expr left) {
        boolean negated = skip("not");
        Expr test;
        if (skip("null")) {
            test = new Expr.IsNull(left);
        } else if (skip("distinct")) {
            expect("from");
            Expr same = new Expr.Same(left, sum());
            return negated ? same : new Expr.Not(same);
        } else if (skip("true")) {
            test = new Expr.And(List.of(new Expr.Not(new Expr.IsNull(left)), left));
        } else if (skip("false")) {
            test = new Expr.And(List.of(new Expr.Not(new Expr.IsNull(left)), new Expr.Not(left)));
        } else {
            throw new UnknownSyntaxException("IS " + peek().text());
        }
        return negated ? new Expr.Not(test) : test;
    }

    private Expr predicate(Expr left) {
        if (skip("between")) {
            Expr low = sum();
            expect("and");
            Expr high = sum();
            return new Expr.And(List.of(new Expr.Binary(">=", left, low), new Expr.Binary("<=", left, high)));
        }
        if (skip("in")) {
            expect("(");
            List<Expr> choices = list(")");
            return new Expr.In(left, choices);
        }
        if (skip("like") || skip("~~")) {
            return new Expr.Matches(left, pattern(), false, false);
        }
        if (skip("ilike") || skip("~~*")) {
            return new Expr.Matches(left, pattern(), false, true);
        }
        if (skip("!~~")) {
            return new Expr.Not(new Expr.Matches(left, pattern(), false, false));
        }
        if (skip("!~~*")) {
            return new Expr.Not(new Expr.Matches(left, pattern(), false, true));
        }
        if (skip("regexp") || skip("rlike") || skip("~")) {
            if (left instanceof Expr.Call call && call.function().equals("ignoring_case")) {
                return new Expr.Matches(call.arguments().get(0), sum(), true, true);
            }
            return new Expr.Matches(left, sum(), true, false);
        }
        if (skip("glob")) {
            return new Expr.Matches(left, new Expr.Call("glob_to_regular", List.of(sum())), true, false);
        }
        if (skip("~*")) {
            return new Expr.Matches(left, sum(), true, true);
        }
        if (skip("!~")) {
            return new Expr.Not(new Expr.Matches(left, sum(), true, false));
        }
        if (skip("!~*")) {
            return new Expr.Not(new Expr.Matches(left, sum(), true, true));
        }
        if (skip("<=>")) {
            return new Expr.Same(left, sum());
        }
        if (peek().type() == Lexer.Type.SYMBOL && COMPARING.contains(peek().text())) {
            String operator = tokens.get(at++).text().replace("!=", "<>");
            if (operator.equals("=") && skip("any")) {
                return any(left);
            }
            return new Expr.Binary(operator, left, sum());
        }
        return left;
    }

    private Expr pattern() {
        Expr pattern = sum();
        if (!skip("escape")) {
            return pattern;
        }
        if (pattern instanceof Expr.Literal like
                && sum() instanceof Expr.Literal escape
                && like.value() instanceof String text
                && escape.value() instanceof String mark
                && mark.length() <= 1) {
            return new Expr.Literal(LikePattern.escaped(text, mark));
        }
        throw new UnknownSyntaxException("ESCAPE");
    }

    /** PostgreSQL reports {@code x IN (…)} as {@code x = ANY (ARRAY[…])}, with casts around it. */
    private Expr any(Expr left) {
        expect("(");
        int open = 0;
        while (skip("(")) {
            open++;
        }
        expect("array");
        expect("[");
        List<Expr> choices = list("]");
        skipCasts();
        for (; open > 0; open--) {
            expect(")");
            skipCasts();
        }
        expect(")");
        return new Expr.In(left, choices);
    }

    private Expr sum() {
        Expr left = product();
        while (peek().is("+") || peek().is("-") || peek().is("||")) {
            String operator = tokens.get(at++).text();
            left = new Expr.Binary(operator, left, product());
        }
        return left;
    }

    private Expr product() {
        Expr left = unary();
        while (List.of("*", "/", "%", "mod").stream().anyMatch(operator -> peek().is(operator))) {
            String operator = tokens.get(at++).text().replaceFirst("(?i)mod", "%");
            left = new Expr.Binary(operator, left, unary());
        }
        return left;
    }

    private Expr unary() {
        if (skip("-")) {
            Expr part = unary();
            return part instanceof Expr.Literal l && l.value() instanceof BigDecimal number
                    ? new Expr.Literal(number.negate())
                    : new Expr.Binary("-", new Expr.Literal(BigDecimal.ZERO), part);
        }
        skip("+");
        return casts(primary());
    }

    private Expr primary() {
        Token token = tokens.get(at++);
        switch (token.type()) {
            case NUMBER:
                return new Expr.Literal(new BigDecimal(token.text()));
            case TEXT:
                return new Expr.Literal(token.text());
            case QUOTED_NAME:
                return skip("(") ? call(token.text().toLowerCase(Locale.ROOT), list(")")) : name(token);
            case WORD:
                return word(token);
            default:
                if (token.is("(")) {
                    Expr inner = or();
                    expect(")");
                    return inner;
                }
                throw new UnknownSyntaxException("'" + token.text() + "'");
        }
    }

    private Expr word(Token token) {
        String word = token.text().toLowerCase(Locale.ROOT);
        switch (word) {
            case "true":
                return new Expr.Literal(true);
            case "false":
                return new Expr.Literal(false);
            case "null":
                return new Expr.Literal(null);
            case "cast":
                return cast();
            case "date", "time", "timestamp":
                if (peek().type() == Lexer.Type.TEXT) {
                    return new Expr.Literal(tokens.get(at++).text());
                }
                break;
            case "case":
                return special.cases();
            case "extract":
                return special.extract();
            case "trim":
                return special.trim();
            case "date_trunc":
                if (peek().is("(") && peek(1).type() == Lexer.Type.WORD && peek(2).is(",")) {
                    at++;
                    String unit = tokens.get(at++).text();
                    expect(",");
                    Expr of = or();
                    expect(")");
                    return new Expr.Call(word, List.of(new Expr.Literal(unit), of));
                }
                break;
            case "exists", "select":
                throw new UnknownSyntaxException(word.toUpperCase(Locale.ROOT));
            default:
        }
        if (skip("(")) {
            return call(word, list(")"));
        }
        return name(token);
    }

    private Expr name(Token token) {
        Token last = token;
        while (skip(".")) {
            last = tokens.get(at++);
        }
        return new Expr.ColumnRef(last.text());
    }

    private Expr cast() {
        expect("(");
        Expr inner = or();
        expect("as");
        Expr cast = cast(inner, typeName());
        expect(")");
        return cast;
    }

    private void skipCasts() {
        casts(new Expr.Literal(null));
    }

    private Expr casts(Expr of) {
        Expr cast = of;
        while (skip("::")) {
            cast = cast(cast, typeName());
        }
        return cast;
    }

    /** Most casts say nothing that comparison by value does not do anyway; to whole numbers and days they cut off. */
    private static Expr cast(Expr inner, String type) {
        if (inner instanceof Expr.Literal) {
            return inner;
        }
        return switch (type) {
            case "int", "integer", "bigint", "smallint", "tinyint", "signed" ->
                new Expr.Call("cast_to_whole", List.of(inner));
            case "date" -> new Expr.Call("date", List.of(inner));
            case "varchar_ignorecase" -> new Expr.Call("ignoring_case", List.of(inner)); // H2's own for ~*
            default -> inner;
        };
    }

    private String typeName() {
        String name = tokens.get(at++).text().toLowerCase(Locale.ROOT);
        while (List.of("varying", "precision", "without", "with", "time", "zone", "large", "object", "unsigned")
                .stream()
                .anyMatch(this::skip)) {}

        if (skip("(")) {
            list(")");
        }
        if (skip("[")) {
            expect("]");
            return name + "[]";
        }
        return name;
    }

    List<Expr> list(String end) {
        List<Expr> items = new ArrayList<>();
        if (skip(end)) {
            return items;
        }
        do {
            items.add(or());
        } while (skip(",") || skip("from") || skip("for")); // SUBSTRING(… FROM … FOR …)
        expect(end);
        return List.copyOf(items);
    }

    Token peek() {
        return peek(0);
    }

    Token peek(int ahead) {
        return tokens.get(Math.min(at + ahead, tokens.size() - 1));
    }

    boolean skip(String symbolOrWord) {
        if (peek().is(symbolOrWord)) {
            at++;
            return true;
        }
        return false;
    }

    void expect(String symbolOrWord) {
        if (!skip(symbolOrWord)) {
            throw new UnknownSyntaxException("'" + peek().text() + "'");
        }
    }

    /** A function that matches a pattern is read as the operator that does. */
    private Expr call(String function, List<Expr> arguments) {
        if (skip("respect")) {
            expect("nulls");
            return new Expr.Call(function + "_of_all", arguments);
        }
        if (skip("ignore")) {
            expect("nulls");
        }
        if (function.equals("position")
                && arguments.size() == 1
                && arguments.get(0) instanceof Expr.In in
                && in.choices().size() == 1) { // POSITION(… IN …)
            return new Expr.Call(function, List.of(in.value(), in.choices().get(0)));
        }
        boolean matches = function.equals("regexp_like") && arguments.size() >= 2 && arguments.size() <= 3;
        if (!matches) {
            return new Expr.Call(function, arguments);
        }
        boolean ignoreCase = arguments.size() == 3
                && arguments.get(2) instanceof Expr.Literal flags
                && String.valueOf(flags.value()).contains("i");
        return new Expr.Matches(arguments.get(0), arguments.get(1), true, ignoreCase);
    }
}
