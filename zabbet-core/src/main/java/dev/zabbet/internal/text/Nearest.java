package dev.zabbet.internal.text;

import java.util.Collection;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.Optional;

/** Finds the known name that a misspelt one most likely meant. */
public final class Nearest {
    /** Nobody misspells longer names. */
    private static final int LONGEST = 200;

    private Nearest() {}

    /**
     * Returns the known name with the fewest edits from {@code name}, ignoring case and underscores, if it takes at
     * most a third of the name's length (and at least one edit is always allowed).
     */
    public static Optional<String> to(String name, Collection<String> known) {
        String wanted = plain(name);
        int allowed = Math.max(1, wanted.length() / 3);
        String best = null;
        int bestDistance = allowed + 1;
        if (wanted.length() > LONGEST) {
            return Optional.empty();
        }
        for (String candidate : known) {
            String plain = plain(candidate);
            boolean far = Math.abs(plain.length() - wanted.length()) >= bestDistance;
            int distance = far ? bestDistance : distance(wanted, plain);
            if (distance < bestDistance) {
                bestDistance = distance;
                best = candidate;
            }
        }
        return Optional.ofNullable(best);
    }

    /** Returns the known names that come nearest, the nearest first, however far they are. */
    public static List<String> to(String name, Collection<String> known, int most) {
        String wanted = plain(name.substring(0, Math.min(name.length(), LONGEST)));
        return known.stream()
                .sorted(Comparator.comparingInt(candidate ->
                        distance(wanted, plain(candidate.substring(0, Math.min(candidate.length(), LONGEST))))))
                .limit(most)
                .toList();
    }

    private static String plain(String name) {
        return name.toLowerCase(Locale.ROOT).replace("_", "");
    }

    /** The edit distance in which two neighbouring letters that changed places count as one edit. */
    private static int distance(String a, String b) {
        int[][] d = new int[a.length() + 1][b.length() + 1];
        for (int i = 0; i <= a.length(); i++) {
            for (int j = 0; j <= b.length(); j++) {
                if (i == 0 || j == 0) {
                    d[i][j] = i + j;
                    continue;
                }
                int change = a.charAt(i - 1) == b.charAt(j - 1) ? 0 : 1;
                d[i][j] = Math.min(Math.min(d[i - 1][j], d[i][j - 1]) + 1, d[i - 1][j - 1] + change);
                if (i > 1 && j > 1 && a.charAt(i - 1) == b.charAt(j - 2) && a.charAt(i - 2) == b.charAt(j - 1)) {
                    d[i][j] = Math.min(d[i][j], d[i - 2][j - 2] + 1);
                }
            }
        }
        return d[a.length()][b.length()];
    }
}
