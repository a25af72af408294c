package dev.zabbet.internal.text;

import java.util.Collection;
import java.util.List;
import java.util.Locale;
import java.util.Objects;
import org.jspecify.annotations.Nullable;

/** Small wording helpers of messages: plurals, lists, cut texts, and names from one convention to another. */
public final class Words {
    private Words() {}

    /** Returns {@code "1 row"} or {@code "3 rows"}. */
    public static String count(long n, String singular) {
        if (n == 1) {
            return "1 " + singular;
        }
        boolean y = singular.endsWith("y") && !singular.endsWith("ey");
        return n + " " + (y ? singular.substring(0, singular.length() - 1) + "ies" : singular + "s");
    }

    /** Returns {@code "a, b and c"}. */
    public static String and(Collection<String> words) {
        List<String> list = List.copyOf(words);
        if (list.size() < 2) {
            return String.join("", list);
        }
        return String.join(", ", list.subList(0, list.size() - 1)) + " and " + list.get(list.size() - 1);
    }

    /** Cuts a text to at most {@code most} characters, with a mark that says how many were left out. */
    public static String cut(String text, int most) {
        if (text.length() <= most) {
            return text;
        }
        String mark = "… (" + (text.length() - most) + " more characters)";
        return text.substring(0, most) + mark;
    }

    /** Turns {@code hutId} into {@code hut_id} and {@code StayGuest} into {@code stay_guest}. */
    public static String snakeCase(String camelCase) {
        StringBuilder snake = new StringBuilder();
        for (int i = 0; i < camelCase.length(); i++) {
            char c = camelCase.charAt(i);
            boolean hump = Character.isUpperCase(c)
                    && i > 0
                    && (!Character.isUpperCase(camelCase.charAt(i - 1))
                            || (i + 1 < camelCase.length() && Character.isLowerCase(camelCase.charAt(i + 1))));
            if (hump && camelCase.charAt(i - 1) != '_') {
                snake.append('_');
            }
            snake.append(Character.toLowerCase(c));
        }
        return snake.toString();
    }

    /** Tells whether two names are the same, ignoring case and underscores. */
    public static boolean alike(String a, String b) {
        return a.replace("_", "")
                .toLowerCase(Locale.ROOT)
                .equals(b.replace("_", "").toLowerCase(Locale.ROOT));
    }

    /**
     * Refuses a null argument.
     *
     * @throws NullPointerException if {@code value} is null; the message names the argument and the method
     */
    public static <T> T notNull(@Nullable T value, String argument, String where) {
        return Objects.requireNonNull(value, () -> "'" + argument + "' of " + where + " must not be null.");
    }
}
