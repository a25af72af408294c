package dev.zabbet.internal.check;

import java.util.ArrayList;
import java.util.List;

/** Cuts the text of a condition into tokens. */
final class Lexer {
    enum Type {
        WORD,
        QUOTED_NAME,
        TEXT,
        NUMBER,
        SYMBOL,
        END
    }

    record Token(Type type, String text) {
        boolean is(String symbolOrWord) {
            return (type == Type.SYMBOL || type == Type.WORD) && text.equalsIgnoreCase(symbolOrWord);
        }
    }

    private static final List<String> SYMBOLS = List.of(
            "!~~*", "<=>", "!~~", "~~*", "!~*", "~~", "!~", "~*", "<>", "!=", "<=", ">=", "||", "::", "<", ">", "=",
            "~");

    private final String text;
    private final List<Token> tokens = new ArrayList<>();
    private int at;

    private Lexer(String text) {
        this.text = text;
    }

    static List<Token> tokens(String text) {
        return new Lexer(text).run();
    }

    private List<Token> run() {
        while (at < text.length()) {
            char c = text.charAt(at);
            if (Character.isWhitespace(c)) {
                at++;
            } else if (text.startsWith("/*", at) && text.indexOf("*/", at) > 0) {
                at = text.indexOf("*/", at) + 2; // MariaDB shows such beside literals
            } else if (c == '\'') {
                tokens.add(new Token(Type.TEXT, quoted('\'')));
            } else if (c == '"' || c == '`') {
                tokens.add(new Token(Type.QUOTED_NAME, quoted(c)));
            } else if (Character.isDigit(c)) {
                tokens.add(new Token(Type.NUMBER, span("0123456789.eE")));
            } else if (Character.isLetter(c) || c == '_') {
                word();
            } else {
                symbol();
            }
        }
        tokens.add(new Token(Type.END, ""));
        return tokens;
    }

    private String quoted(char quote) {
        StringBuilder content = new StringBuilder();
        at++;
        while (at < text.length()) {
            char c = text.charAt(at++);
            if (c != quote) {
                content.append(c);
            } else if (at < text.length() && text.charAt(at) == quote) {
                content.append(quote);
                at++;
            } else {
                return content.toString();
            }
        }
        throw new UnknownSyntaxException("a quote that is not closed");
    }

    private String span(String characters) {
        int start = at;
        while (at < text.length() && characters.indexOf(text.charAt(at)) >= 0) {
            at++;
        }
        return text.substring(start, at);
    }

    private void word() {
        int start = at;
        while (at < text.length()
                && (Character.isLetterOrDigit(text.charAt(at)) || "_$".indexOf(text.charAt(at)) >= 0)) {
            at++;
        }
        String word = text.substring(start, at);
        // A character set or national mark before a literal (_utf8mb4'x', N'x') says nothing about its value.
        boolean literalFollows = at < text.length() && text.charAt(at) == '\'';
        if (!literalFollows || !(word.startsWith("_") || word.equalsIgnoreCase("n") || word.equalsIgnoreCase("e"))) {
            tokens.add(new Token(Type.WORD, word));
        }
    }

    private void symbol() {
        for (String symbol : SYMBOLS) {
            if (text.startsWith(symbol, at)) {
                tokens.add(new Token(Type.SYMBOL, symbol));
                at += symbol.length();
                return;
            }
        }
        tokens.add(new Token(Type.SYMBOL, text.substring(at, at + 1)));
        at++;
    }
}
