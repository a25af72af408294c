package dev.zabbet.internal.mask;

import java.util.Set;
import java.util.regex.Pattern;

/** What a text looks like by itself, whatever the column is called. */
final class ContentSigns {
    private static final Pattern EMAIL =
            Pattern.compile("[\\p{L}\\p{N}._%+'&/=?^{}~#*-]+@[\\p{L}\\p{N}][\\p{L}\\p{N}.-]*\\.\\p{L}{2,24}");
    private static final Pattern EMAIL_INSIDE =
            Pattern.compile("[\\p{L}\\p{N}._%+'-]+@[\\p{L}\\p{N}][\\p{L}\\p{N}.-]*\\.\\p{L}{2,24}");
    private static final Pattern IBAN = Pattern.compile("[A-Z]{2}\\d{2}(?: ?[A-Z0-9]){11,30}");
    private static final Pattern IBAN_INSIDE = Pattern.compile("\\b[A-Z]{2}\\d{2}(?: ?[A-Z0-9]{2,4}){3,8}\\b");
    private static final Pattern CARD =
            Pattern.compile("[23456]\\d{3}([ -]?)\\d{4}\\1\\d{4}\\1\\d{1,7}|3\\d{3}([ -]?)\\d{6}\\2\\d{5}");
    private static final Pattern IP_V4 =
            Pattern.compile("(25[0-5]|2[0-4]\\d|1\\d\\d|[1-9]?\\d)(\\.(25[0-5]|2[0-4]\\d|1\\d\\d|[1-9]?\\d)){3}");
    private static final Pattern IP_V6 = Pattern.compile("(?i)(?=.*:.*:)[0-9a-f]{0,4}(:[0-9a-f]{0,4}){2,7}");
    private static final Pattern MAC = Pattern.compile("(?i)[0-9a-f]{2}([:-])[0-9a-f]{2}(\\1[0-9a-f]{2}){4}");
    private static final Pattern PHONE = Pattern.compile("(\\+|00)[1-9][\\d ()./-]{6,18}\\d");
    private static final Pattern NATIONAL_PHONE = Pattern.compile(
            "\\(?0\\d{1,4}\\)?[ /-]\\d{2,4}[ /-]?\\d{2,4}([ /-]?\\d{2,4})?|\\(\\d{3}\\) ?\\d{3}-\\d{4}|\\d{3}-\\d{3}-\\d{4}");
    private static final Pattern PHONE_INSIDE =
            Pattern.compile("(?<![\\w+])\\+[1-9]\\d{0,2}[ .(-]?\\d[\\d ().-]{5,15}\\d");
    private static final Pattern NATIONAL_NUMBER =
            Pattern.compile("756\\.\\d{4}\\.\\d{4}\\.\\d{2}|\\d{3}-\\d{2}-\\d{4}|\\d{3}\\.\\d{3}\\.\\d{3}-\\d{2}");
    private static final Pattern HASHED = Pattern.compile(
            "\\$(2[abxy]?|argon2\\w*|[156y]|scrypt|pbkdf2\\S*)\\$\\S{20,}|\\{(bcrypt|noop|argon2|pbkdf2|scrypt)\\}\\S{8,}"
                    + "|eyJ[\\w-]{8,}\\.[\\w-]{8,}\\.[\\w-]*|-----BEGIN [A-Z ]+-----[\\s\\S]*");
    private static final Pattern TOKEN = Pattern.compile("[A-Za-z0-9_+/=.-]{20,}");
    private static final Pattern HEXADECIMAL =
            Pattern.compile("(?i)([0-9a-f]{32}|[0-9a-f]{40}|[0-9a-f]{56}|[0-9a-f]{64}|[0-9a-f]{128})");
    private static final Pattern UUID =
            Pattern.compile("(?i)[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}");
    private static final Pattern COORDINATES =
            Pattern.compile("(?i)(POINT ?\\()?[(\\[]?-?\\d{1,3}\\.\\d{3,}[,; ] ?-?\\d{1,3}\\.\\d{3,}[)\\]]?\\)?");
    private static final Pattern NAME = Pattern.compile(
            "\\p{Lu}[\\p{L}'’.-]*( (\\p{Lu}[\\p{L}'’.-]*|d[aeiu]|de[lrn]?|v[ao]n|la|le|y|zu[mr]?)){0,4}");
    private static final Set<String> COUNTRIES = Set.of(
            "AD AE AL AT AZ BA BE BG BH BR BY CH CR CY CZ DE DK DO EE EG ES FI FO FR GB GE GI GL GR GT HR HU IE IL IQ IS IT JO KW KZ LB LC LI LT LU LV LY MC MD ME MK MR MT MU NL NO PK PL PS PT QA RO RS SA SC SE SI SK SM ST SV TL TN TR UA VA VG XK"
                    .split(" "));

    private ContentSigns() {}

    static boolean isEmail(String text) {
        return text.indexOf('@') > 0 && EMAIL.matcher(text).matches();
    }

    /** ISO 13616: the country, and a remainder of 1 by 97. */
    static boolean isIban(String text) {
        return text.length() >= 15
                && IBAN.matcher(text).matches()
                && COUNTRIES.contains(text.substring(0, 2))
                && ibanRemainder(text.replace(" ", "")) == 1;
    }

    static int ibanRemainder(String compact) {
        int remainder = 0;
        String turned = compact.substring(4) + compact.substring(0, 4);
        for (int i = 0; i < turned.length(); i++) {
            int value = Character.digit(turned.charAt(i), 36);
            remainder = (remainder * (value > 9 ? 100 : 10) + value) % 97;
        }
        return remainder;
    }

    /** The number of a payment card: how it is grouped, how it begins, and its check digit. */
    static boolean isCard(String text) {
        return CARD.matcher(text).matches() && luhnSum(text.replaceAll("\\D", "")) % 10 == 0;
    }

    static int luhnSum(String digits) {
        int sum = 0;
        for (int i = 0; i < digits.length(); i++) {
            int digit = digits.charAt(digits.length() - 1 - i) - '0';
            int twice = digit * 2 > 9 ? digit * 2 - 9 : digit * 2;
            sum += i % 2 == 1 ? twice : digit;
        }
        return sum;
    }

    static boolean isIpV4(String text) {
        return IP_V4.matcher(text).matches();
    }

    /** Versions look alike; their parts are small. */
    static boolean isSurelyIpV4(String text) {
        return isIpV4(text) && java.util.Arrays.stream(text.split("\\.")).anyMatch(part -> Integer.parseInt(part) > 99);
    }

    static boolean isMac(String text) {
        return MAC.matcher(text).matches();
    }

    static boolean isHexAddress(String text) {
        return isMac(text) || (text.length() > 4 && IP_V6.matcher(text).matches());
    }

    static boolean isPhone(String text) {
        long digits = text.chars().filter(Character::isDigit).count();
        return digits >= 8 && digits <= 15 && PHONE.matcher(text).matches();
    }

    static boolean isNationalPhone(String text) {
        long digits = text.chars().filter(Character::isDigit).count();
        return digits >= 7 && digits <= 13 && NATIONAL_PHONE.matcher(text).matches();
    }

    static boolean isNationalNumber(String text) {
        return NATIONAL_NUMBER.matcher(text).matches();
    }

    static boolean isHashed(String text) {
        return HASHED.matcher(text).matches();
    }

    static boolean isHexadecimal(String text) {
        return HEXADECIMAL.matcher(text).matches();
    }

    static boolean isUuid(String text) {
        return UUID.matcher(text).matches();
    }

    static boolean isCoordinates(String text) {
        return COORDINATES.matcher(text).matches();
    }

    /** A token is long, without words, and of letters and digits in disorder. */
    static boolean isToken(String text) {
        if (!TOKEN.matcher(text).matches() || isUuid(text)) {
            return false;
        }
        boolean digit = text.chars().anyMatch(Character::isDigit);
        boolean upper = text.chars().anyMatch(Character::isUpperCase);
        boolean lower = text.chars().anyMatch(Character::isLowerCase);
        long changes = java.util.stream.IntStream.range(1, text.length())
                .filter(i -> kind(text.charAt(i)) != kind(text.charAt(i - 1)))
                .count();
        return digit && (upper || lower) && changes * 4 >= text.length();
    }

    private static int kind(char c) {
        if (Character.isDigit(c)) {
            return 0;
        }
        return Character.isUpperCase(c) ? 1 : 2;
    }

    /** How a name is written: few words, with capitals. */
    static boolean isWrittenLikeName(String text) {
        return text.length() <= 60 && NAME.matcher(text).matches();
    }

    /** Something inside of a text that tells of a person. */
    static boolean holdsPersonal(String text) {
        return (text.indexOf('@') > 0 && EMAIL_INSIDE.matcher(text).find())
                || (text.indexOf('+') >= 0 && PHONE_INSIDE.matcher(text).find())
                || IBAN_INSIDE.matcher(text).results().anyMatch(found -> isIban(found.group()));
    }

    /** How many words of letters there are. */
    static int words(String text) {
        int words = 0;
        boolean inside = false;
        for (int i = 0; i < text.length(); i++) {
            boolean letter = Character.isLetter(text.charAt(i)) || text.charAt(i) == '\'';
            words += letter && !inside ? 1 : 0;
            inside = letter;
        }
        return words;
    }
}
