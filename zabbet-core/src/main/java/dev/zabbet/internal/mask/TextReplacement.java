package dev.zabbet.internal.mask;

import dev.zabbet.internal.value.SplitMix;
import dev.zabbet.internal.value.Vocabulary;
import java.math.BigInteger;
import java.time.DateTimeException;
import java.time.LocalDate;
import java.time.format.DateTimeFormatter;
import java.time.format.ResolverStyle;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/**
 * Puts another text in the place of a text: the same for the same text, whatever column it stands in; of the same shape, so that
 * lengths, separators and check digits stay right; and different for different texts, so that what is unique stays so. Free text
 * is invented as a whole. Not thread-safe.
 */
final class TextReplacement {
    private static final long WORD = 1;
    private static final long REST = 2;
    private static final long WHOLE = 3;
    private static final int MOST_NAME_WORDS = 6;
    private static final Pattern TOKEN = Pattern.compile("[\\p{L}\\p{N}]+");
    private static final Pattern DATE =
            Pattern.compile("(\\d{4})-(\\d{2})-(\\d{2})(.*)|(\\d{1,2})([./])(\\d{1,2})([./])(\\d{4})", Pattern.DOTALL);
    private static final Pattern PREFIX = Pattern.compile("(\\$[^$]{1,10}\\$([^$]{1,40}\\$)*|\\p{Alpha}{2,10}://)(.+)");
    private static final Pattern PHONE =
            Pattern.compile("\\+(1|7|20|27|3[0-46-9]|4[013-9]|5[1-8]|6[0-6]|8[1246]|9[0-58]|\\d{3})(.*)");

    private final SecretPermutation permutation;
    private final Letters letters = new Letters();
    private final boolean keepDomains;

    TextReplacement(byte[] secret, boolean keepDomains) {
        this.permutation = new SecretPermutation(secret, "values");
        this.keepDomains = keepDomains;
    }

    /** A number of a text that looks random. */
    long number(String text) {
        return permutation.number(text, WHOLE);
    }

    /**
     * Returns what stands in a text's place.
     *
     * @param most how many characters there is room for
     */
    String of(String text, int most) {
        if (text.isBlank()) {
            return text;
        }
        if (ContentSigns.isEmail(text)) {
            return email(text, most);
        }
        if (ContentSigns.isIban(text)) {
            return iban(text);
        }
        if (ContentSigns.isCard(text)) {
            return card(text);
        }
        if (ContentSigns.isIpV4(text)) {
            return ipV4(text);
        }
        if (ContentSigns.isHexAddress(text)) {
            return hex(text);
        }
        String date = date(text);
        if (date != null) {
            return date;
        }
        Matcher phone = PHONE.matcher(text);
        if (ContentSigns.isPhone(text) && phone.matches()) {
            return "+" + phone.group(1) + positions(phone.group(2), REST);
        }
        Matcher prefix = PREFIX.matcher(text);
        if (prefix.matches()) {
            return prefix.group(1) + tokens(prefix.group(3), 0);
        }
        return ContentSigns.words(text) > MOST_NAME_WORDS ? freeText(text) : tokens(text, 0);
    }

    /** Words one by one, so that a family name is the same in every full name; what has digits in it as one number. */
    private String tokens(String text, long tweak) {
        StringBuilder rest = new StringBuilder();
        List<int[]> words = new ArrayList<>();
        List<int[]> others = new ArrayList<>();
        Matcher token = TOKEN.matcher(text);
        while (token.find()) {
            boolean word = token.group().codePoints().allMatch(Character::isLetter);
            (word ? words : others).add(new int[] {token.start(), token.end()});
            rest.append(word ? "" : token.group());
        }
        StringBuilder whole = new StringBuilder(text);
        for (int[] span : words) {
            whole.replace(span[0], span[1], positions(text.substring(span[0], span[1]), WORD + tweak));
        }
        String replaced = positions(rest.toString(), REST + tweak);
        int from = 0;
        for (int[] span : others) {
            whole.replace(span[0], span[1], replaced.substring(from, from + span[1] - span[0]));
            from += span[1] - span[0];
        }
        return whole.toString();
    }

    /** All letters and digits of a text as one number; case and leading zeros stay. */
    private String positions(String text, long tweak) {
        int[] characters = text.codePoints().toArray();
        List<Integer> at = new ArrayList<>();
        List<List<Integer>> ranges = new ArrayList<>();
        boolean begun = false;
        for (int i = 0; i < characters.length; i++) {
            boolean digit = characters[i] >= '0' && characters[i] <= '9';
            if (digit && !begun && characters[i] == '0') {
                continue;
            }
            List<Integer> range = letters.alternatives(characters[i]);
            if (range != null) {
                at.add(i);
                ranges.add(digit && !begun ? range.subList(1, range.size()) : range);
                begun |= digit;
            }
        }
        int[] digits = new int[at.size()];
        int[] radices = new int[at.size()];
        for (int i = 0; i < digits.length; i++) {
            radices[i] = ranges.get(i).size();
            digits[i] = Math.max(0, ranges.get(i).indexOf(Character.toLowerCase(characters[at.get(i)])));
        }
        int[] permuted = permutation.permute(digits, radices, tweak);
        for (int i = 0; i < digits.length; i++) {
            int c = ranges.get(i).get(permuted[i]);
            boolean upper = Character.isUpperCase(characters[at.get(i)]);
            characters[at.get(i)] = upper ? Character.toUpperCase(c) : c;
        }
        return new String(characters, 0, characters.length);
    }

    /** The domain becomes one of those that nobody can have (RFC 2606), unless domains are to stay. */
    private String email(String text, int most) {
        int sign = text.lastIndexOf('@');
        String domain = text.substring(sign + 1);
        if (keepDomains) {
            return tokens(text.substring(0, sign), 0) + "@" + domain;
        }
        int dot = domain.lastIndexOf('.');
        long top = permutation.number(domain.substring(dot).toLowerCase(Locale.ROOT), WHOLE);
        String host = tokens(domain.substring(0, dot), top);
        String replaced = tokens(text.substring(0, sign), 0) + "@" + host + ".test";
        if (replaced.length() <= most) {
            return replaced;
        }
        String brief = Long.toString(permutation.number(text, WHOLE) >>> 1, 36);
        int room = Math.max(1, most - "@x.test".length());
        return brief.substring(0, Math.min(brief.length(), room)) + "@x.test";
    }

    /** The check digits are worked out again (ISO 13616). */
    private String iban(String text) {
        String compact = text.replace(" ", "");
        String account = positions(compact.substring(4), REST);
        String country = compact.substring(0, 2);
        int check = 98 - ContentSigns.ibanRemainder(country + "00" + account);
        return spread(country + String.format("%02d", check) + account, text);
    }

    /** The first digit tells whose card it is and stays; the last is worked out again (ISO/IEC 7812, Luhn). */
    private String card(String text) {
        String digits = text.replaceAll("\\D", "");
        String middle =
                positions("1" + digits.substring(1, digits.length() - 1), REST).substring(1);
        String start = digits.charAt(0) + middle;
        int sum = ContentSigns.luhnSum(start + "0");
        return spread(start + (10 - sum % 10) % 10, text);
    }

    /** Puts characters into the places of letters and digits of a text. */
    private static String spread(String characters, String like) {
        StringBuilder whole = new StringBuilder();
        int next = 0;
        for (int i = 0; i < like.length(); i++) {
            whole.append(Character.isLetterOrDigit(like.charAt(i)) ? characters.charAt(next++) : like.charAt(i));
        }
        return whole.toString();
    }

    private String ipV4(String text) {
        String[] parts = text.split("\\.");
        int[] digits = new int[parts.length];
        int[] radices = new int[parts.length];
        for (int i = 0; i < parts.length; i++) {
            digits[i] = Integer.parseInt(parts[i]);
            radices[i] = 256;
        }
        int[] permuted = permutation.permute(digits, radices, REST);
        List<String> all = new ArrayList<>();
        for (int part : permuted) {
            all.add(String.valueOf(part));
        }
        return String.join(".", all);
    }

    /** Addresses in hexadecimal, IPv6 and MAC: a group begins with a zero only where it did. */
    private String hex(String text) {
        List<Integer> at = new ArrayList<>();
        for (int i = 0; i < text.length(); i++) {
            boolean begins = i == 0 || Character.digit(text.charAt(i - 1), 16) < 0;
            int digit = Character.digit(text.charAt(i), 16);
            if (digit > 0 || (digit == 0 && !begins)) {
                at.add(i);
            }
        }
        int[] digits = new int[at.size()];
        int[] radices = new int[at.size()];
        for (int i = 0; i < digits.length; i++) {
            boolean begins = at.get(i) == 0 || Character.digit(text.charAt(at.get(i) - 1), 16) < 0;
            digits[i] = Character.digit(text.charAt(at.get(i)), 16) - (begins ? 1 : 0);
            radices[i] = begins ? 15 : 16;
        }
        int[] permuted = permutation.permute(digits, radices, REST);
        StringBuilder whole = new StringBuilder(text);
        for (int i = 0; i < digits.length; i++) {
            char digit = Character.forDigit(permuted[i] + (radices[i] == 15 ? 1 : 0), 16);
            boolean upper = Character.isUpperCase(text.charAt(at.get(i)));
            whole.setCharAt(at.get(i), upper ? Character.toUpperCase(digit) : digit);
        }
        return whole.toString();
    }

    /** A date that is written out, as it is written; null if the text is none. */
    private @Nullable String date(String text) {
        Matcher date = DATE.matcher(text);
        if (!date.matches()) {
            return null;
        }
        try {
            if (date.group(1) != null) {
                LocalDate day = LocalDate.parse(text.substring(0, 10));
                return shifted(day, 0) + date.group(4);
            }
            String pattern = "d".repeat(date.group(5).length()) + date.group(6)
                    + "M".repeat(date.group(7).length()) + date.group(8) + "uuuu";
            DateTimeFormatter form =
                    DateTimeFormatter.ofPattern(pattern, Locale.ROOT).withResolverStyle(ResolverStyle.STRICT);
            return shifted(LocalDate.parse(text, form), 0).format(form);
        } catch (DateTimeException e) {
            return null; // 31.02., or month and day the other way round: digits like others
        }
    }

    /** A day within half a year of another, and never that itself; each attempt gives another. */
    LocalDate shifted(LocalDate day, int attempt) {
        long draw = permutation.number(day + "/" + attempt, WHOLE);
        int days = 1 + (int) Math.floorMod(draw, 182L);
        return (draw >>> 40 & 1) == 0 ? day.plusDays(days) : day.minusDays(days);
    }

    /** Words of ours, no longer than the text was. */
    private String freeText(String text) {
        long state = permutation.number(text, WHOLE);
        StringBuilder whole = new StringBuilder();
        boolean begins = true;
        for (int draw = 0; ; draw++) {
            long number = SplitMix.next(state, draw);
            String word = Vocabulary.WORDS.get((int) Math.floorMod(number, (long) Vocabulary.WORDS.size()));
            if (whole.length() + word.length() + 2 > text.length()) {
                break;
            }
            whole.append(whole.length() == 0 ? "" : " ")
                    .append(begins ? word.substring(0, 1).toUpperCase(Locale.ROOT) + word.substring(1) : word);
            begins = (number >>> 32 & 7) == 0;
            whole.append(begins ? "." : "");
        }
        return whole.length() == 0 ? tokens(text, 0) : whole + (begins ? "" : ".");
    }

    /** Bytes of the same length, which nothing can be read from. */
    byte[] bytes(byte[] value) {
        long state = permutation.number(new BigInteger(1, value).toString(36), WHOLE);
        byte[] replaced = new byte[value.length];
        for (int i = 0; i < replaced.length; i++) {
            replaced[i] = (byte) SplitMix.next(state, i);
        }
        return replaced;
    }
}
