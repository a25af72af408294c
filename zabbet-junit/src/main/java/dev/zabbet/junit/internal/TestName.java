package dev.zabbet.junit.internal;

import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.junit.jupiter.api.extension.ExtensionContext;

/** How tests are named in files and reports. */
final class TestName {
    private TestName() {}

    /** Returns a test's class and method, the same for all its runs: {@code dev.huts.StayDeskTest#cancels}. */
    static String of(ExtensionContext context) {
        return context.getRequiredTestClass().getName() + "#"
                + context.getRequiredTestMethod().getName()
                + Stream.of(context.getRequiredTestMethod().getParameterTypes())
                        .filter(type -> !isGiven(type))
                        .map(Class::getSimpleName)
                        .collect(Collectors.collectingAndThen(
                                Collectors.joining(","), list -> list.isEmpty() ? "" : "(" + list + ")"));
    }

    /** What extensions give tells no two methods apart. */
    private static boolean isGiven(Class<?> type) {
        return type.getName().startsWith("dev.zabbet.")
                || type.getName().startsWith("javax.sql.")
                || type.getName().startsWith("org.junit.");
    }
}
