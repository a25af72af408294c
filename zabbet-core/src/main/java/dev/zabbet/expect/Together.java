package dev.zabbet.expect;

import dev.zabbet.internal.text.Words;
import java.util.ArrayList;
import java.util.List;
import org.opentest4j.AssertionFailedError;

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
        StringBuilder all = new StringBuilder(
                failures.size() + " of " + Words.count(expectations.length, "expectation") + " do not hold.");
        for (int i = 0; i < failures.size(); i++) {
            all.append("\n\n").append(i + 1).append(") ").append(failures.get(i).getMessage());
        }
        AssertionFailedError together = new AssertionFailedError(all.toString());
        failures.forEach(together::addSuppressed);
        throw together;
    }
}
