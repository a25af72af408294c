package dev.zabbet.expect;

import dev.zabbet.internal.text.Words;
import java.util.ArrayList;
import java.util.List;
import java.util.Objects;

/** Runs expectations that are reported together. */
final class Together {
    private Together() {}

    static void run(Runnable... expectations) {
        List<AssertionError> failures = new ArrayList<>();
        for (Runnable expectation : expectations) {
            try {
                expectation.run();
            } catch (AssertionError e) {
                failures.add(e);
            }
        }
        if (failures.isEmpty()) {
            return;
        }
        if (failures.size() == 1) {
            throw failures.get(0);
        }
        Sheet all = new Sheet();
        String of = failures.size() + " of " + Words.count(expectations.length, "expectation") + " do not hold.";
        all.sentence(Ink.HEADLINE, of);
        for (int i = 0; i < failures.size(); i++) {
            all.end();
            all.add(Ink.FAINT, (i + 1) + ") ").add(failures.get(i));
        }
        Long variation = failures.stream()
                .filter(ExpectationFailure.class::isInstance)
                .map(failure -> ((ExpectationFailure) failure).variation())
                .filter(Objects::nonNull)
                .findFirst()
                .orElse(null);
        ExpectationFailure together = new ExpectationFailure(all, variation);
        failures.forEach(together::addSuppressed);
        throw together;
    }
}
