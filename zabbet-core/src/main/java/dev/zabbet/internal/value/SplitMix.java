package dev.zabbet.internal.value;

/**
 * Numbers that look random and are a pure function of where they stand: variation, table, ordinal and column. The
 * mixing step is the finaliser of SplitMix64 (Steele, Lea and Flood, "Fast splittable pseudorandom number generators",
 * 2014); names are folded by FNV-1a, so that they mean the same in every process.
 */
public final class SplitMix {
    private static final long STEP = 0x9E3779B97F4A7C15L;

    private SplitMix() {}

    public static long of(long variation, long name, long ordinal) {
        return mix(mix(variation * STEP + name) + ordinal * STEP);
    }

    public static long next(long state, int draw) {
        return mix(state + (draw + 1) * STEP);
    }

    public static long mix(long z) {
        long a = (z ^ (z >>> 30)) * 0xBF58476D1CE4E5B9L;
        long b = (a ^ (a >>> 27)) * 0x94D049BB133111EBL;
        return b ^ (b >>> 31);
    }

    public static long name(String table, String column) {
        long hash = 0xCBF29CE484222325L;
        String name = table + "." + column;
        for (int i = 0; i < name.length(); i++) {
            hash = (hash ^ name.charAt(i)) * 0x100000001B3L;
        }
        return hash;
    }
}
