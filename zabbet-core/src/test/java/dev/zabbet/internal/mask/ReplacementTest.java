package dev.zabbet.internal.mask;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertFalse;
import static org.junit.jupiter.api.Assertions.assertNotEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;

import java.math.BigInteger;
import java.nio.charset.StandardCharsets;
import java.time.LocalDate;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import org.junit.jupiter.api.Test;

/** What stands in the place of texts: the same for the same, other for others, and of one shape with the original. */
class ReplacementTest {
    private static final byte[] SECRET = "a secret of the tests".getBytes(StandardCharsets.UTF_8);
    private static final int ROOM = 1_000;

    private final TextReplacement texts = new TextReplacement(SECRET, false);

    private String of(String text) {
        return texts.of(text, ROOM);
    }

    /** All numbers of small systems: each is reached once, and none stays where it is. */
    @Test
    void aPermutationMovesEveryNumberToAnother() {
        SecretPermutation permutation = new SecretPermutation(SECRET, "values");
        for (int[] radices : List.of(
                new int[] {7},
                new int[] {10, 10},
                new int[] {5, 16},
                new int[] {9, 10, 10},
                new int[] {2, 3, 4, 5},
                new int[] {1, 21, 1, 5})) {
            Set<String> reached = new HashSet<>();
            int size = 1;
            for (int radix : radices) {
                size *= radix;
            }
            for (int number = 0; number < size; number++) {
                int[] digits = new int[radices.length];
                int rest = number;
                for (int at = radices.length - 1; at >= 0; at--) {
                    digits[at] = rest % radices[at];
                    rest /= radices[at];
                }
                int[] other = permutation.permute(digits, radices, 3);
                assertFalse(java.util.Arrays.equals(digits, other), () -> java.util.Arrays.toString(digits) + " stays");
                for (int at = 0; at < other.length; at++) {
                    assertTrue(other[at] >= 0 && other[at] < radices[at]);
                }
                reached.add(java.util.Arrays.toString(other));
            }
            assertEquals(size, reached.size(), java.util.Arrays.toString(radices));
        }
    }

    /** Texts of random shapes; the variation is printed. */
    @Test
    void differentTextsBecomeDifferentOnesOfTheSameShape() {
        long variation = Long.getLong("zabbet.firstVariation", System.nanoTime());
        System.out.println("ReplacementTest: variation " + variation);
        Random random = new Random(variation);
        List<String> parts = List.of(
                "Alva", "nett", "ZÜRICH", "é", "12", "007", "4", "k3f9", "Ω", "Алва", "山田", "-", " ", ".", "/", "+41",
                "x");
        Map<String, String> originals = new HashMap<>();
        for (int run = 0; run < 20_000; run++) {
            StringBuilder text = new StringBuilder();
            for (int i = 0; i < 1 + random.nextInt(5); i++) {
                text.append(parts.get(random.nextInt(parts.size())));
            }
            String original = text.toString();
            if (ContentSigns.words(original) > 6) {
                continue;
            }
            String other = of(original);
            assertEquals(other, of(original));
            assertEquals(original.length(), other.length(), original);
            for (int i = 0; i < original.length(); i++) {
                char was = original.charAt(i);
                char is = other.charAt(i);
                assertEquals(Character.isLetter(was), Character.isLetter(is), original + " " + other);
                assertEquals(Character.isDigit(was), Character.isDigit(is), original + " " + other);
                assertTrue(Character.isLetterOrDigit(was) || was == is, original + " " + other);
                assertTrue(
                        Character.isUpperCase(was) == Character.isUpperCase(is) || was > 0x7F, original + " " + other);
            }
            String before = originals.put(
                    other.toLowerCase(java.util.Locale.ROOT), original.toLowerCase(java.util.Locale.ROOT));
            assertTrue(
                    before == null || before.equals(original.toLowerCase(java.util.Locale.ROOT)),
                    other + " for " + before + " and " + original);
        }
        assertTrue(originals.size() > 3_000, "only " + originals.size());
    }

    @Test
    void checkDigitsCountriesAndFormsStayRight() {
        for (int i = 0; i < 300; i++) {
            String account = "00762" + String.format("%012d", 11_623_852_957L + i * 977L);
            String digits = account + "121700";
            String iban = "CH"
                    + String.format(
                            "%02d",
                            98
                                    - new BigInteger(digits)
                                            .mod(BigInteger.valueOf(97))
                                            .intValue()) + account;
            String other = of(iban);
            assertTrue(ContentSigns.isIban(other) && other.startsWith("CH") && !other.equals(iban), other);
        }
        String spaced = of("CH93 0076 2011 6238 5295 7");
        assertTrue(ContentSigns.isIban(spaced) && spaced.charAt(4) == ' ' && spaced.charAt(24) == ' ', spaced);
        for (String card : List.of("4111 1111 1111 1111", "5500000000000004", "3782-822463-10005")) {
            String other = of(card);
            assertTrue(ContentSigns.isCard(other), card + " " + other);
            assertEquals(card.charAt(0), other.charAt(0));
        }
        assertTrue(of("+41 79 555 12 34").matches("\\+41 \\d\\d \\d{3} \\d\\d \\d\\d"));
        assertTrue(of("0041 79 555 12 34").startsWith("00"));
        assertTrue(of("+420 601 123 456").startsWith("+420 "));
        assertTrue(ContentSigns.isIpV4(of("203.0.113.77")));
        assertTrue(ContentSigns.isMac(of("02:00:5e:10:00:ff")));
        assertTrue(of("2001:db8:85a3::8a2e:370:7334")
                .matches("[1-9a-f][0-9a-f]{3}:[1-9a-f][0-9a-f]{2}:[1-9a-f][0-9a-f]{3}::.*"));
        assertTrue(of("https://Alva.example/nett").startsWith("https://"));
        assertTrue(of("$2a$10$abcdefghijklmnopqrstuv").startsWith("$2a$10$"));
        assertEquals("", of(""));
        assertEquals("--", of("--"));
    }

    @Test
    void addressesOfEmailReachNobody() {
        String other = of("Alva.Nett77@Post.example");
        assertTrue(other.matches("[A-Z][a-z]{3}\\.[A-Z][a-z]{3}\\d\\d@[A-Z][a-z]{3}\\.test"), other);
        assertNotEquals(of("a@post.example"), of("a@post.ch"), "the end of a domain counts");
        String kept = new TextReplacement(SECRET, true).of("alva@post.example", ROOM);
        assertTrue(kept.endsWith("@post.example") && !kept.startsWith("alva"), kept);
        assertTrue(texts.of("a@b.ch", 8).length() <= 8);
        assertTrue(texts.of("alva@b.ch", 9).matches("[0-9a-z]{1,2}@x\\.test"), texts.of("alva@b.ch", 9));
    }

    @Test
    void textIsInventedAsAWholeAndDaysStayNear() {
        String note = "Alva called twice about the bill and wants a quiet room for her mother";
        String other = of(note);
        assertTrue(other.length() <= note.length() && other.length() > note.length() / 2, other);
        assertFalse(other.contains("Alva") || other.contains("mother"), other);
        assertTrue(Character.isUpperCase(other.charAt(0)) && other.endsWith("."), other);
        for (int i = 0; i < 400; i++) {
            LocalDate day = LocalDate.of(1950, 1, 1).plusDays(i * 31L);
            long moved = Math.abs(texts.shifted(day, 0).toEpochDay() - day.toEpochDay());
            assertTrue(moved >= 1 && moved <= 182, day + " by " + moved);
        }
        assertTrue(of("04.05.1990").matches("\\d\\d\\.\\d\\d\\.(1989|1990)"), of("04.05.1990"));
        assertTrue(of("1990-05-04T08:00").endsWith("T08:00"));
        assertNotEquals("31.02.1990", of("31.02.1990"), "no day, but digits");
    }

    /** Another secret gives other replacements: they do not follow from the text alone. */
    @Test
    void theSecretDecides() {
        TextReplacement others = new TextReplacement("another secret, as long".getBytes(StandardCharsets.UTF_8), false);
        int same = 0;
        for (int i = 0; i < 200; i++) {
            same += of("guest" + i).equals(others.of("guest" + i, ROOM)) ? 1 : 0;
        }
        assertTrue(same < 3, same + " of 200 are the same");
    }
}
