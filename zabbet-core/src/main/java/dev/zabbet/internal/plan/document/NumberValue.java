package dev.zabbet.internal.plan.document;

import dev.zabbet.internal.jsonschema.SchemaNode;
import dev.zabbet.value.Values;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.math.RoundingMode;
import java.util.Optional;

/**
 * The numbers that a schema allows: multiples of a step.
 *
 * @param step the distance between two
 * @param first the first, in steps
 * @param last the last, in steps
 */
record NumberValue(BigDecimal step, BigInteger first, BigInteger last) {
    private static final BigDecimal CENT = new BigDecimal("0.01");
    private static final BigDecimal USUAL = BigDecimal.valueOf(999);
    private static final int FINEST = 30; // digits after the point

    /** Returns the numbers that all schemas together allow; empty if there are none. */
    static Optional<NumberValue> of(MergedSchema merged, boolean whole) {
        BigDecimal multiple = whole ? BigDecimal.ONE : null;
        for (SchemaNode node : merged.nodes()) {
            BigDecimal own = node.number("multipleOf").orElse(null);
            if (own != null) {
                multiple = multiple == null ? own : common(multiple, own);
            }
        }
        if (multiple != null) {
            return of(merged, multiple);
        }
        for (BigDecimal step = CENT; step.scale() <= FINEST; step = step.movePointLeft(1)) {
            Optional<NumberValue> found = of(merged, step);
            if (found.isPresent()) {
                return found;
            }
        }
        return merged.greatest("minimum").map(only -> new NumberValue(only, BigInteger.ONE, BigInteger.ONE));
    }

    private static Optional<NumberValue> of(MergedSchema merged, BigDecimal step) {
        Optional<BigInteger> least = max(
                merged.greatest("minimum").map(bound -> steps(bound, step, RoundingMode.CEILING)),
                merged.greatest("exclusiveMinimum")
                        .map(bound -> steps(bound, step, RoundingMode.FLOOR).add(BigInteger.ONE)));
        Optional<BigInteger> most = max(
                        merged.least("maximum").map(bound -> steps(bound, step, RoundingMode.FLOOR)
                                .negate()),
                        merged.least("exclusiveMaximum").map(bound -> steps(bound, step, RoundingMode.CEILING)
                                .subtract(BigInteger.ONE)
                                .negate()))
                .map(BigInteger::negate);
        BigInteger width = steps(USUAL, step, RoundingMode.FLOOR).max(BigInteger.valueOf(2));
        BigInteger usual = steps(BigDecimal.ONE, step, RoundingMode.CEILING);
        BigInteger first = least.orElseGet(() -> most.filter(bound -> bound.compareTo(usual) < 0)
                .map(bound -> bound.subtract(width))
                .orElse(usual));
        BigInteger last = most.map(bound -> bound.min(first.add(width))).orElse(first.add(width));
        return first.compareTo(last) > 0 ? Optional.empty() : Optional.of(new NumberValue(step, first, last));
    }

    private static Optional<BigInteger> max(Optional<BigInteger> a, Optional<BigInteger> b) {
        return a.isPresent() && b.isPresent() ? Optional.of(a.get().max(b.get())) : a.or(() -> b);
    }

    private static BigInteger steps(BigDecimal number, BigDecimal step, RoundingMode rounding) {
        return number.divide(step, 0, rounding).toBigInteger();
    }

    /** Returns the least number that is a multiple of both. */
    private static BigDecimal common(BigDecimal a, BigDecimal b) {
        int scale = Math.max(0, Math.max(a.scale(), b.scale()));
        BigInteger x = a.movePointRight(scale).toBigIntegerExact();
        BigInteger y = b.movePointRight(scale).toBigIntegerExact();
        return new BigDecimal(x.divide(x.gcd(y)).multiply(y), scale);
    }

    BigDecimal make(Values draws) {
        long width =
                last.subtract(first).min(BigInteger.valueOf(Long.MAX_VALUE - 1)).longValue();
        BigDecimal number = new BigDecimal(first.add(BigInteger.valueOf(draws.between(0, width)))).multiply(step);
        BigDecimal plain = number.stripTrailingZeros();
        return plain.scale() < 0 ? plain.setScale(0) : plain;
    }
}
