package dev.zabbet.spring.internal.context;

import dev.zabbet.junit.internal.ClassStage;
import org.springframework.core.Ordered;
import org.springframework.test.context.TestContext;
import org.springframework.test.context.TestExecutionListener;

/** Checks what has to hold after each test of a class, {@code @Staged(expect = …)}, while the test's transaction is open. */
public final class StageExpectationListener implements TestExecutionListener, Ordered {
    /** After all of Spring's; what ends a test runs in the opposite order. */
    private static final int INSIDE_ALL = 20_000;

    @Override
    public int getOrder() {
        return INSIDE_ALL;
    }

    @Override
    public void afterTestMethod(TestContext test) {
        if (test.getTestException() == null) {
            StagesOfClasses.owner(test.getTestClass())
                    .flatMap(StagesOfClasses::find)
                    .ifPresent(ClassStage::expect);
        }
    }
}
