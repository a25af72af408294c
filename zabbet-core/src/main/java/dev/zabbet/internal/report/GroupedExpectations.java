package dev.zabbet.internal.report;

import dev.zabbet.error.ExpectationFailure;
import dev.zabbet.internal.text.Words;
import java.util.ArrayList;
import java.util.List;

/** Runs expectations that are reported together. */
public final class GroupedExpectations {
    private GroupedExpectations() {}

    public static void run(Runnable... expectations) {
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
        ReportText all = new ReportText();
        String of = failures.size() + " of " + Words.count(expectations.length, "expectation") + " do not hold.";
        all.sentence(TextStyle.HEADLINE, of);
        for (int i = 0; i < failures.size(); i++) {
            all.end();
            all.add(TextStyle.FAINT, (i + 1) + ") ").add(failures.get(i));
        }
        Long variation = failures.stream()
                .filter(ExpectationFailure.class::isInstance)
                .flatMap(failure -> ((ExpectationFailure) failure).variation().stream())
                .findFirst()
                .orElse(null);
        ExpectationFailure together = new ExpectationFailure(all.plain(), all.coloured(), variation);
        failures.forEach(together::addSuppressed);
        throw together;
    }
}
