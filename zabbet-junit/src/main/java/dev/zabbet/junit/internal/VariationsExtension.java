package dev.zabbet.junit.internal;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import dev.zabbet.junit.Variations;
import java.util.Spliterator;
import java.util.Spliterators;
import java.util.stream.Stream;
import java.util.stream.StreamSupport;
import org.junit.jupiter.api.extension.ExtensionContext;
import org.junit.jupiter.api.extension.TestTemplateInvocationContext;
import org.junit.jupiter.api.extension.TestTemplateInvocationContextProvider;
import org.junit.platform.commons.support.AnnotationSupport;

/** Gives the runs of a test in many variations, and those of the search for what decides: one after the other, as they are asked for. */
public final class VariationsExtension implements TestTemplateInvocationContextProvider {

    @Override
    public boolean supportsTestTemplate(ExtensionContext context) {
        return AnnotationSupport.isAnnotated(context.getRequiredTestMethod(), Variations.class);
    }

    @Override
    public Stream<TestTemplateInvocationContext> provideTestTemplateInvocationContexts(ExtensionContext context) {
        Variations asked = AnnotationSupport.findAnnotation(context.getRequiredTestMethod(), Variations.class)
                .orElseThrow();
        int count = StoryExtension.isCounterproof(context) ? 1 : count(asked);
        if (asked.exchanges() < 1 || asked.seconds() < 1) {
            throw new ZabbetException("@Variations takes at least 1 exchange and 1 second; it says "
                    + Words.count(asked.exchanges(), "exchange") + " and " + Words.count(asked.seconds(), "second")
                    + ".");
        }
        VariationRuns runs = new VariationRuns(count, asked.exchanges(), asked.seconds());
        return StreamSupport.stream(Spliterators.spliteratorUnknownSize(runs, Spliterator.ORDERED), false);
    }

    private static int count(Variations asked) {
        String text = Environment.get("zabbet.variations").map(String::strip).orElse(String.valueOf(asked.value()));
        int count = text.matches("\\d{1,6}") ? Integer.parseInt(text) : 0;
        if (count < 2) {
            throw new ZabbetException(
                    "@Variations takes a number from 2; @Variations or the property zabbet.variations says '" + text
                            + "'.");
        }
        return count;
    }
}
