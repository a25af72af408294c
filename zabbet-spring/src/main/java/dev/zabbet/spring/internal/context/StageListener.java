package dev.zabbet.spring.internal.context;

import org.springframework.core.Ordered;
import org.springframework.test.context.TestContext;
import org.springframework.test.context.TestExecutionListener;

/**
 * Notes how the database is before a test, and brings it back afterwards. Its place is around all that Spring does: before the
 * test's transaction begins, and after it has ended.
 */
public final class StageListener implements TestExecutionListener, Ordered {
    /** Before Spring injects into test instances, which is at 2000; its transactions begin at 4000. */
    private static final int AROUND_ALL = 1_900;

    @Override
    public int getOrder() {
        return AROUND_ALL;
    }

    @Override
    public void beforeTestClass(TestContext test) {
        StagesOfClasses.begin(test);
    }

    @Override
    public void prepareTestInstance(TestContext test) {
        StagesOfClasses.owner(test.getTestClass()).ifPresent(StagesOfClasses::runs);
    }

    @Override
    public void beforeTestMethod(TestContext test) throws InterruptedException {
        Class<?> owner = StagesOfClasses.owner(test.getTestClass()).orElse(null);
        if (owner != null) {
            StagesOfClasses.open(owner, StagesOfClasses.context(owner, test)).beforeTest();
        }
    }

    @Override
    public void afterTestMethod(TestContext test) {
        StagesOfClasses.owner(test.getTestClass())
                .flatMap(StagesOfClasses::find)
                .ifPresent(stage -> stage.afterTest());
    }

    @Override
    public void afterTestClass(TestContext test) {
        StagesOfClasses.end(test);
    }
}
