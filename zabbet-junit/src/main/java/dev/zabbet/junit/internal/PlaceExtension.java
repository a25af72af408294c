package dev.zabbet.junit.internal;

import dev.zabbet.Stage;
import dev.zabbet.internal.story.Stories;
import java.util.function.Supplier;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.extension.AfterClassTemplateInvocationCallback;
import org.junit.jupiter.api.extension.AfterEachCallback;
import org.junit.jupiter.api.extension.BeforeEachCallback;
import org.junit.jupiter.api.extension.ExtensionContext;
import org.junit.jupiter.api.extension.ParameterContext;
import org.junit.jupiter.api.extension.ParameterResolver;
import org.junit.jupiter.api.extension.TestExecutionExceptionHandler;

/** Hands the stage of one run of a class to its tests, rewinds it after each, and compares what they leave. */
final class PlaceExtension
        implements BeforeEachCallback,
                AfterEachCallback,
                ParameterResolver,
                TestExecutionExceptionHandler,
                AfterClassTemplateInvocationCallback {
    private final String place;
    private final Supplier<ClassStage> opening;
    private final LeftBehind left;
    private @Nullable ClassStage held;

    PlaceExtension(String place, Supplier<ClassStage> opening, LeftBehind left) {
        this.place = place;
        this.opening = opening;
        this.left = left;
    }

    private synchronized ClassStage held() {
        ClassStage known = held;
        if (known == null) {
            known = opening.get();
            held = known;
        }
        return known;
    }

    @Override
    public void beforeEach(ExtensionContext context) throws InterruptedException {
        held().beforeTest();
        StoryExtension.tells(context, held().stage());
    }

    @Override
    public void afterEach(ExtensionContext context) {
        try {
            if (context.getExecutionException().isEmpty() && StoryExtension.leavesWhatItIsToLeave(context)) {
                Stage stage = held().stage();
                Stories.untold(stage.store(), () -> left.compare(testOf(context), place, stage.footprints()));
            }
        } finally {
            afterTest(context);
        }
    }

    private void afterTest(ExtensionContext context) {
        try {
            if (context.getExecutionException().isEmpty()) {
                held().expect();
            }
        } catch (AssertionError e) {
            if (!StoryExtension.keepsBack(context, e)) {
                throw PlacedFailure.of(e, place);
            }
        } finally {
            held().afterTest();
        }
    }

    @Override
    public void handleTestExecutionException(ExtensionContext context, Throwable failure) throws Throwable {
        left.passedElsewhere(testOf(context))
                .ifPresent(other -> failure.addSuppressed(
                        new AssertionError("The same test passes " + other + "; it fails " + place + ".")));
        throw PlacedFailure.of(failure, place);
    }

    /** Names a test without the run it belongs to. */
    private static String testOf(ExtensionContext context) {
        return context.getUniqueId().replaceAll("\\[class-template-invocation:#\\d+]", "");
    }

    @Override
    public boolean supportsParameter(ParameterContext parameter, ExtensionContext context) {
        Class<?> type = parameter.getParameter().getType();
        return type == Stage.class || type == DataSource.class;
    }

    @Override
    public Object resolveParameter(ParameterContext parameter, ExtensionContext context) {
        Stage stage = held().stage();
        return parameter.getParameter().getType() == Stage.class ? stage : stage.dataSource();
    }

    @Override
    public synchronized void afterClassTemplateInvocation(ExtensionContext context) {
        if (held != null) {
            held.close();
            held = null;
        }
    }
}
