package dev.zabbet.internal.check;

import dev.zabbet.internal.check.Lexer.Token;
import dev.zabbet.internal.check.Lexer.Type;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Set;

/** Reads a condition as H2, PostgreSQL, MariaDB and SQLite report it. */
final class Parser {
    private static final Set<String> COMPARING = Set.of("=", "<>", "!=", "<", ">", "<=", ">=");

    private final List<Token> tokens;
    private int at;

    private Parser(List<Token> tokens) {
        this.tokens = tokens;
    }

    /**
     * Reads a whole condition.
     *
     * @throws NotUnderstood if the text is no condition that this parser knows
     */
    static Expr parse(String text) {
        Parser parser = new Parser(Lexer.tokens(text));
        Expr expr = parser.or();
        if (parser.peek().type() != Type.END) {
            throw new NotUnderstood("'" + parser.peek().text() + "'");
        }
        return expr;
    }

    private Expr or() {
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
            throw new NotUnderstood("IS " + peek().text());
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
        if (peek().type() == Type.SYMBOL && COMPARING.contains(peek().text())) {
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
        if (skip("escape")) {
            throw new NotUnderstood("ESCAPE");
        }
        return pattern;
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
        casts();
        for (; open > 0; open--) {
            expect(")");
            casts();
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
        Expr primary = primary();
        casts();
        return primary;
    }

    private Expr primary() {
        Token token = tokens.get(at++);
        switch (token.type()) {
            case NUMBER:
                return new Expr.Literal(new BigDecimal(token.text()));
            case TEXT:
                return new Expr.Literal(token.text());
            case QUOTED_NAME:
                return name(token);
            case WORD:
                return word(token);
            default:
                if (token.is("(")) {
                    Expr inner = or();
                    expect(")");
                    return inner;
                }
                throw new NotUnderstood("'" + token.text() + "'");
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
                if (peek().type() == Type.TEXT) {
                    return new Expr.Literal(tokens.get(at++).text());
                }
                break;
            case "case":
                return cases();
            case "extract":
                return extract();
            case "exists", "select":
                throw new NotUnderstood(word.toUpperCase(Locale.ROOT));
            default:
        }
        if (skip("(")) {
            return call(word, list(")"));
        }
        return name(token);
    }

    private Expr cases() {
        Expr subject = peek().is("when") ? null : or();
        List<Expr.When> branches = new ArrayList<>();
        while (skip("when")) {
            Expr condition = or();
            expect("then");
            branches.add(new Expr.When(subject == null ? condition : new Expr.Binary("=", subject, condition), or()));
        }
        if (skip("else")) {
            branches.add(new Expr.When(null, or()));
        }
        expect("end");
        return new Expr.Case(List.copyOf(branches));
    }

    private Expr extract() {
        expect("(");
        String field = tokens.get(at++).text().toLowerCase(Locale.ROOT);
        expect("from");
        Expr of = or();
        expect(")");
        return new Expr.Call(field, List.of(of));
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
        typeName();
        expect(")");
        return inner;
    }

    private void casts() {
        while (skip("::")) {
            typeName();
        }
    }

    /** A cast of a constant or column says nothing that comparison by value does not do anyway. */
    private void typeName() {
        at++;
        while (List.of("varying", "precision", "without", "with", "time", "zone", "large", "object", "unsigned")
                .stream()
                .anyMatch(this::skip)) {
            continue;
        }
        if (skip("(")) {
            list(")");
        }
        if (skip("[")) {
            expect("]");
        }
    }

    private List<Expr> list(String end) {
        List<Expr> items = new ArrayList<>();
        if (skip(end)) {
            return items;
        }
        do {
            items.add(or());
        } while (skip(","));
        expect(end);
        return List.copyOf(items);
    }

    private Token peek() {
        return peek(0);
    }

    private Token peek(int ahead) {
        return tokens.get(Math.min(at + ahead, tokens.size() - 1));
    }

    private boolean skip(String symbolOrWord) {
        if (peek().is(symbolOrWord)) {
            at++;
            return true;
        }
        return false;
    }

    private void expect(String symbolOrWord) {
        if (!skip(symbolOrWord)) {
            throw new NotUnderstood("'" + peek().text() + "'");
        }
    }

    /** A function that matches a pattern is read as the operator that does. */
    private static Expr call(String function, List<Expr> arguments) {
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
