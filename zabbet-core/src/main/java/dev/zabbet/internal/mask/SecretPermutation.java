package dev.zabbet.internal.mask;

import dev.zabbet.error.ZabbetException;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.util.Arrays;
import javax.crypto.Cipher;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;

/**
 * Permutes numbers of mixed radix: every number becomes another of the same digits' ranges, different ones become different
 * ones, and nobody who lacks the secret can tell which became which. The construction is an alternating Feistel network whose
 * rounds add, digit by digit, what a block cipher makes of the other half (as in NIST SP 800-38G, "Format-Preserving
 * Encryption", but for digits of different ranges). No number stays itself: what is returned for x is the number that precedes
 * the successor of x's image, P⁻¹(P(x) + 1).
 *
 * <p>Not thread-safe.
 */
final class SecretPermutation {
    private static final int ROUNDS = 8;
    private static final int BLOCK = 16;

    private final Cipher cipher;

    /** @param purpose separates what is derived from one secret for different ends */
    SecretPermutation(byte[] secret, String purpose) {
        try {
            cipher = Cipher.getInstance(
                    "AES/ECB/NoPadding"); // single blocks of a pseudorandom function, never a message
            cipher.init(Cipher.ENCRYPT_MODE, new SecretKeySpec(key(secret, purpose), 0, BLOCK, "AES"));
        } catch (GeneralSecurityException e) {
            throw new ZabbetException("This Java has no AES, which masking needs: " + e.getMessage(), e);
        }
    }

    private static byte[] key(byte[] secret, String purpose) throws GeneralSecurityException {
        Mac mac = Mac.getInstance("HmacSHA256");
        mac.init(new SecretKeySpec(secret, "HmacSHA256"));
        return mac.doFinal(purpose.getBytes(StandardCharsets.UTF_8));
    }

    /**
     * Permutes a number.
     *
     * @param digits the digits, each at least 0 and less than its radix
     * @param radices the radix of each digit
     * @param tweak numbers of different tweaks are permuted differently
     * @return the digits of the other number
     */
    int[] permute(int[] digits, int[] radices, long tweak) {
        long size = 1;
        for (int radix : radices) {
            size = Math.min(size * radix, 1L << 40);
        }
        if (size < 2) {
            return digits.clone();
        }
        if (digits.length == 1) {
            return new int[] {successor(digits[0], radices[0], tweak)};
        }
        int[] number = digits.clone();
        for (int round = 0; round < ROUNDS; round++) {
            add(number, radices, tweak, round, 1);
        }
        for (int at = number.length - 1; at >= 0; at--) {
            number[at] = (number[at] + 1) % radices[at];
            if (number[at] != 0) {
                break;
            }
        }
        for (int round = ROUNDS - 1; round >= 0; round--) {
            add(number, radices, tweak, round, -1);
        }
        return number;
    }

    /** Of a single digit the successor in an order of its own is taken: a network needs two halves. */
    private int successor(int digit, int radix, long tweak) {
        long[] weight = new long[radix];
        for (int i = 0; i < radix; i++) {
            weight[i] = number(new int[] {i}, radix, tweak);
        }
        Integer[] order = new Integer[radix];
        Arrays.setAll(order, i -> i);
        Arrays.sort(order, (a, b) -> Long.compare(weight[a], weight[b]));
        return order[(Arrays.asList(order).indexOf(digit) + 1) % radix];
    }

    private void add(int[] number, int[] radices, long tweak, int round, int sign) {
        int middle = number.length / 2;
        boolean left = round % 2 == 0;
        int from = left ? 0 : middle;
        int to = left ? middle : number.length;
        int[] other = left ? Arrays.copyOfRange(number, middle, number.length) : Arrays.copyOfRange(number, 0, middle);
        byte[] state = mac(other, round, tweak);
        byte[] stream = new byte[0];
        for (int at = from; at < to; at++) {
            int word = (at - from) % 4;
            if (word == 0) {
                state[0] ^= (byte) ((at - from) / 4 + 1);
                stream = encrypt(state);
            }
            long draw = ((stream[word * 4] & 0xFFL) << 24)
                    | ((stream[word * 4 + 1] & 0xFFL) << 16)
                    | ((stream[word * 4 + 2] & 0xFFL) << 8)
                    | (stream[word * 4 + 3] & 0xFFL);
            number[at] = (int) Math.floorMod(number[at] + sign * draw, (long) radices[at]);
        }
    }

    /** Returns a number that looks random, of a text: the same for the same text. */
    long number(String text, long tweak) {
        return number(text.codePoints().toArray(), 0, tweak);
    }

    private long number(int[] digits, int round, long tweak) {
        byte[] state = mac(digits, round, tweak);
        long number = 0;
        for (int i = 0; i < Long.BYTES; i++) {
            number = number << 8 | (state[i] & 0xFF);
        }
        return number;
    }

    /** CBC-MAC over the length, which comes first, the round, the tweak and the digits. */
    private byte[] mac(int[] digits, int round, long tweak) {
        byte[] state = new byte[BLOCK];
        put(state, 0, digits.length);
        put(state, 4, round);
        put(state, 8, (int) (tweak >>> 32));
        put(state, 12, (int) tweak);
        state = encrypt(state);
        for (int at = 0; at < digits.length; at += 4) {
            for (int i = 0; i < 4 && at + i < digits.length; i++) {
                put(state, i * 4, digits[at + i]);
            }
            state = encrypt(state);
        }
        return state;
    }

    private static void put(byte[] state, int at, int value) {
        for (int i = 0; i < 4; i++) {
            state[at + i] ^= (byte) (value >>> (24 - i * 8));
        }
    }

    private byte[] encrypt(byte[] block) {
        try {
            return cipher.doFinal(block);
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException(e);
        }
    }
}
