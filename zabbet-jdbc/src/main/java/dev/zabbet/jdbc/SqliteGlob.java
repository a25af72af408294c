package dev.zabbet.jdbc;

/** Writes patterns of LIKE as patterns of SQLite's GLOB, in which case counts. */
final class SqliteGlob {
    private SqliteGlob() {}

    static String of(String quotedPattern) {
        StringBuilder glob = new StringBuilder();
        for (int i = 0; i < quotedPattern.length(); i++) {
            char c = quotedPattern.charAt(i);
            if (c == '\\' && i + 1 < quotedPattern.length()) {
                glob.append(literal(quotedPattern.charAt(++i)));
            } else {
                glob.append(c == '%' ? "*" : c == '_' ? "?" : literal(c));
            }
        }
        return glob.toString();
    }

    private static String literal(char c) {
        return "*?[".indexOf(c) >= 0 ? "[" + c + "]" : String.valueOf(c);
    }
}
