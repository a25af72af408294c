package dev.zabbet.factory;

import java.util.List;
import java.util.function.Function;

/** Picks readable text by a column's name. */
record TextMaker(Function<Values, String> how, boolean isDifferent) {
    private static final String DIGITS = "0123456789abcdefghijklmnopqrstuvwxyz";

    /** How many {@link #sign}s there are. */
    static final long SIGNS = 20_000;

    /**
     * Returns one of the ideographs of Unicode's block "CJK Unified Ideographs": single characters of which there are
     * many, and none of which any collation takes for another.
     */
    static String sign(long number) {
        return String.valueOf((char) (0x4E00 + number));
    }

    String make(Values values) {
        return how.apply(values);
    }

    static TextMaker of(String table, String column) {
        if (column.contains("email") || column.contains("e_mail")) {
            return new TextMaker(Values::email, true);
        }
        if (column.contains("hash") || column.contains("token") || column.contains("secret")) {
            return new TextMaker(v -> "made-up-" + code(v.ordinal(), 8), true);
        }
        if (any(column, "phone", "mobile", "fax")) {
            return new TextMaker(Values::phone, false);
        }
        if (any(column, "full_name", "first_name", "last_name", "person", "author", "owner", "warden", "user")) {
            return new TextMaker(Values::personName, false);
        }
        if (any(column, "city", "town", "place", "village")) {
            return new TextMaker(Values::place, false);
        }
        if (any(column, "street", "address")) {
            return new TextMaker(Values::street, false);
        }
        if (any(column, "company", "firm", "supplier")) {
            return new TextMaker(Values::company, false);
        }
        if (any(column, "url", "link", "website")) {
            return new TextMaker(v -> "https://example.org/" + v.word() + "/" + v.ordinal(), true);
        }
        if (any(column, "description", "comment", "note", "text", "body", "message", "remark")) {
            return new TextMaker(Values::sentence, false);
        }
        boolean person = any(table, "person", "guest", "user", "customer", "employee", "member", "author");
        if (any(column, "name", "title", "city", "place", "town", "label")) {
            return new TextMaker(person ? Values::personName : Values::place, false);
        }
        return new TextMaker(Values::word, false);
    }

    /** Makes a text different in each row: its number stands behind it. */
    static String numbered(String text, long ordinal) {
        return text + " " + ordinal;
    }

    /**
     * Returns a short text that is different for each ordinal as long as {@code length} digits of base 36 suffice; it is
     * cut at the front beyond that.
     */
    static String code(long ordinal, int length) {
        StringBuilder code = new StringBuilder();
        long rest = ordinal;
        do {
            code.insert(0, DIGITS.charAt((int) (rest % 36)));
            rest /= 36;
        } while (rest > 0);
        while (code.length() < Math.min(length, 4)) {
            code.insert(0, '0');
        }
        return code.length() > length ? code.substring(code.length() - length) : code.toString();
    }

    private static boolean any(String name, String... parts) {
        return List.of(parts).stream().anyMatch(name::contains);
    }
}
