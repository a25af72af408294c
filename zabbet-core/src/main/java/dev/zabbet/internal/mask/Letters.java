package dev.zabbet.internal.mask;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.IntStream;
import org.jspecify.annotations.Nullable;

/**
 * Which characters may stand in another's place: vowels for vowels and common consonants for common ones, so that a word stays
 * one that can be read; letters of other scripts for their neighbours; digits for digits.
 */
final class Letters {
    private static final List<String> LATIN = List.of("aeiou", "bcdfghklmnprstvw", "jqxyz");
    private static final int NEIGHBOURS = 64;

    private final Map<Integer, List<Integer>> byFirst = new HashMap<>();

    /** The characters, in lower case, that may stand in the place of one, itself among them; null if it stays as it is. */
    @Nullable
    List<Integer> alternatives(int c) {
        if (c >= '0' && c <= '9') {
            return byFirst.computeIfAbsent(
                    (int) '0', first -> "0123456789".codePoints().boxed().toList());
        }
        if (Character.isDigit(c)) { // of another script
            int zero = c - Character.digit(c, 10);
            return byFirst.computeIfAbsent(
                    zero, first -> IntStream.range(zero, zero + 10).boxed().toList());
        }
        if (!Character.isLetter(c)) {
            return null;
        }
        int lower = Character.toLowerCase(c);
        for (String group : LATIN) {
            if (group.indexOf(lower) >= 0) {
                return byFirst.computeIfAbsent(
                        (int) group.charAt(0),
                        first -> group.codePoints().boxed().toList());
            }
        }
        return byFirst.computeIfAbsent(lower - lower % NEIGHBOURS, Letters::neighbours);
    }

    private static List<Integer> neighbours(int first) {
        List<Integer> letters = new ArrayList<>();
        for (int c = first; c < first + NEIGHBOURS; c++) {
            if (Character.isLetter(c) && Character.toLowerCase(c) == c) {
                letters.add(c);
            }
        }
        return letters;
    }
}
