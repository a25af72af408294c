package dev.zabbet.jdbc.internal.sqlite;

/** Writes patterns of LIKE as patterns of SQLite's GLOB, in which case counts. */
final class SqliteGlob {
    private SqliteGlob() {}

    static String of(String pattern) {
        StringBuilder glob = new StringBuilder();
        for (int i = 0; i < pattern.length(); i++) {
            char c = pattern.charAt(i);
            if (c == '\\' && i + 1 < pattern.length()) {
                glob.append(literal(pattern.charAt(++i)));
            } else {
                glob.append(
                        switch (c) {
                            case '%' -> "*";
                            case '_' -> "?";
                            default -> literal(c);
                        });
            }
        }
        return glob.toString();
    }

    private static String literal(char c) {
        return "*?[".indexOf(c) >= 0 ? "[" + c + "]" : String.valueOf(c);
    }
}
