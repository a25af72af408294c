package dev.zabbet.junit.internal;

import dev.zabbet.internal.value.MixedVariation;
import java.util.function.Consumer;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.extension.BeforeEachCallback;
import org.junit.jupiter.api.extension.ExtensionContext;
import org.opentest4j.IncompleteExecutionException;

/** Has a test run in a variation, or in one that is mixed of two, and tells what becomes of it. */
final class InVariation implements BeforeEachCallback {
    private final DecidingValues.Exchange exchange;
    private final boolean keepsBack;
    private final Consumer<VariationRun> whenEnded;
    private @Nullable MixedVariation mixed;

    /** @param keepsBack whether a failure is no more than an answer */
    InVariation(DecidingValues.Exchange exchange, boolean keepsBack, Consumer<VariationRun> whenEnded) {
        this.exchange = exchange;
        this.keepsBack = keepsBack;
        this.whenEnded = whenEnded;
    }

    boolean keepsBack() {
        return keepsBack;
    }

    @Override
    public void beforeEach(ExtensionContext context) {
        MixedVariation opened = MixedVariation.open(exchange.base(), exchange.other(), exchange.places());
        mixed = opened;
        StoryExtension.runsIn(context, this);
        StoryExtension.story(context).orElseThrow().mix(opened);
    }

    /** The test has ended. */
    void ended(Class<?> testClass, @Nullable Throwable failure) {
        MixedVariation opened = mixed;
        if (opened != null) {
            opened.close();
            whenEnded.accept(new VariationRun(exchange.base(), opened.made(), failure, end(testClass, failure)));
        }
    }

    /** Failures are alike if they are of one type and come from one line of the test. */
    private static String end(Class<?> testClass, @Nullable Throwable failure) {
        if (failure == null) {
            return "";
        }
        if (failure instanceof IncompleteExecutionException) {
            return VariationRun.ABORTED;
        }
        return failure.getClass().getName()
                + Stream.of(failure.getStackTrace())
                        .filter(frame -> frame.getClassName().startsWith(testClass.getName()))
                        .map(frame -> ":" + frame.getLineNumber())
                        .findFirst()
                        .orElse("");
    }
}
