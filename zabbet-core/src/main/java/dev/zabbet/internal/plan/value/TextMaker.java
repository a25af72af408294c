package dev.zabbet.internal.plan.value;

import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.value.Vocabulary;
import dev.zabbet.value.Values;
import java.util.List;
import java.util.Locale;
import java.util.function.Function;
import java.util.stream.Stream;

/** Picks readable text by a column's name. */
public record TextMaker(Function<Values, String> how, boolean isDifferent) {
    private static final String DIGITS = "0123456789abcdefghijklmnopqrstuvwxyz";

    private static final String[] PEOPLE = {"person", "guest", "user", "customer", "employee", "member", "author"};
    private static final String[] FIRMS = {
        "company", "firm", "supplier", "vendor", "organisation", "organization", "brand", "employer"
    };
    private static final String[] PLACES = {
        "hut", "region", "place", "city", "town", "village", "valley", "country", "state", "location", "site",
                "station",
        "area", "district", "stop", "venue", "branch", "warehouse", "airport", "hotel", "building", "room", "lake",
                "trail"
    };

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
        if (isEmail(column)) {
            return new TextMaker(Values::email, true);
        }
        if (column.contains("hash") || column.contains("token") || column.contains("secret")) {
            return new TextMaker(v -> "made-up-" + code(v.ordinal(), 8), true);
        }
        if (any(column, "phone", "mobile", "fax")) {
            return new TextMaker(Values::phone, false);
        }
        if (isGiven(column)) {
            return new TextMaker(v -> v.pick(Vocabulary.GIVEN), false);
        }
        if (isFamily(column)) {
            return new TextMaker(TextMaker::familyName, false);
        }
        if (isPerson(table, column)) {
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
        if (any(column, "name", "title", "label")) {
            if (isAbout(table, PLACES)) {
                return new TextMaker(Values::place, false);
            }
            return new TextMaker(isAbout(table, FIRMS) ? Values::company : TextMaker::title, false);
        }
        return new TextMaker(Values::word, false);
    }

    /**
     * Returns the column by whose name a column's value is drawn: what is said of the person that a row is about, names and
     * addresses, is drawn by one name, so that it agrees.
     */
    public static String drawnBy(String table, String column) {
        return isOfPerson(table, column.toLowerCase(Locale.ROOT)) ? "name" : column;
    }

    private static boolean isOfPerson(String table, String column) {
        return isEmail(column) || isGiven(column) || isFamily(column) || isName(table, column);
    }

    private static boolean isEmail(String column) {
        return column.contains("email") || column.contains("e_mail");
    }

    private static boolean isGiven(String column) {
        return any(column.replace("_", ""), "firstname", "givenname", "forename");
    }

    private static boolean isFamily(String column) {
        return any(column.replace("_", ""), "lastname", "familyname", "surname");
    }

    /** Tells whether it is the name of the person that a row is about. */
    private static boolean isName(String table, String column) {
        boolean person = any(table.toLowerCase(Locale.ROOT), PEOPLE);
        return column.replace("_", "").contains("fullname") || (person && any(column, "name", "title", "label"));
    }

    private static boolean isPerson(String table, String column) {
        return isName(table, column) || any(column, "person", "author", "owner", "warden", "user");
    }

    /** Tells whether a word stands in a table's name, as one thing or several: a statement is no state. */
    private static boolean isAbout(String table, String... words) {
        List<String> parts = List.of(Words.snakeCase(table).split("_"));
        return List.of(words).stream()
                .flatMap(word -> Stream.of(word, word + "s", word + "es", word.replaceFirst("y$", "ies")))
                .anyMatch(parts::contains);
    }

    /** Makes a text different in each row: its number stands behind it. */
    static String numbered(String text, long ordinal) {
        return text + " " + ordinal;
    }

    /**
     * Returns a short text that is different for each ordinal as long as {@code length} digits of base 36 suffice; it is
     * cut at the front beyond that.
     */
    public static String code(long ordinal, int length) {
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

    /** Returns the family name of a person of whom a given name was drawn before. */
    private static String familyName(Values values) {
        values.pick(Vocabulary.GIVEN);
        return values.pick(Vocabulary.FAMILY);
    }

    private static String title(Values values) {
        return values.pick(Vocabulary.QUALITIES) + " " + values.pick(Vocabulary.THINGS);
    }
}
