package dev.zabbet.internal.check;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;

/** Expressions with a syntax of their own: TRIM, CASE, EXTRACT and CAST. */
final class SpecialForms {
    private final Parser parser;

    SpecialForms(Parser parser) {
        this.parser = parser;
    }

    /** TRIM as a function, or with a side and what to take away before FROM. */
    Expr trim() {
        parser.expect("(");
        String side;
        if (parser.skip("leading")) {
            side = "ltrim";
        } else if (parser.skip("trailing")) {
            side = "rtrim";
        } else {
            side = "trim";
        }
        parser.skip("both");
        if (parser.skip("from")) {
            return new Expr.Call(side, parser.list(")"));
        }
        Expr first = parser.or();
        if (!parser.skip("from")) {
            List<Expr> arguments = new ArrayList<>(List.of(first));
            if (parser.skip(",")) {
                arguments.add(parser.or());
            }
            parser.expect(")");
            return new Expr.Call(side, List.copyOf(arguments));
        }
        Expr of = parser.or();
        parser.expect(")");
        return new Expr.Call(side, List.of(of, first));
    }

    Expr cases() {
        Expr subject = parser.peek().is("when") ? null : parser.or();
        List<Expr.When> branches = new ArrayList<>();
        while (parser.skip("when")) {
            Expr condition = parser.or();
            parser.expect("then");
            branches.add(
                    new Expr.When(subject == null ? condition : new Expr.Binary("=", subject, condition), parser.or()));
        }
        if (parser.skip("else")) {
            branches.add(new Expr.When(null, parser.or()));
        }
        parser.expect("end");
        return new Expr.Case(List.copyOf(branches));
    }

    Expr extract() {
        parser.expect("(");
        String field = parser.tokens.get(parser.at++).text().toLowerCase(Locale.ROOT);
        parser.expect("from");
        Expr of = parser.or();
        parser.expect(")");
        return new Expr.Call(field, List.of(of));
    }
}
