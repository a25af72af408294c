package dev.zabbet.junit.internal;

import dev.zabbet.Stage;
import dev.zabbet.internal.story.LooseEnd;
import dev.zabbet.internal.story.Stories;
import dev.zabbet.internal.story.Story;
import dev.zabbet.internal.text.Words;
import dev.zabbet.junit.ResultOnly;
import java.lang.reflect.Method;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;
import org.junit.jupiter.api.extension.AfterAllCallback;
import org.junit.jupiter.api.extension.AfterEachCallback;
import org.junit.jupiter.api.extension.BeforeAllCallback;
import org.junit.jupiter.api.extension.BeforeEachCallback;
import org.junit.jupiter.api.extension.DynamicTestInvocationContext;
import org.junit.jupiter.api.extension.ExtensionContext;
import org.junit.jupiter.api.extension.InvocationInterceptor;
import org.junit.jupiter.api.extension.ReflectiveInvocationContext;
import org.junit.platform.commons.support.AnnotationSupport;
import org.opentest4j.AssertionFailedError;
import org.opentest4j.IncompleteExecutionException;

/**
 * Tells the story of each test, and judges it where the test runs as a counterproof: then what makes it fail is kept back until it
 * is known why it fails.
 */
public final class StoryExtension
        implements BeforeAllCallback, AfterAllCallback, BeforeEachCallback, AfterEachCallback, InvocationInterceptor {
    private static final ExtensionContext.Namespace SPACE = ExtensionContext.Namespace.create(StoryExtension.class);
    private static final String STORY = "story";
    private static final String BEGUN = "begun";
    private static final String VARIATION = "variation";
    private static final String COUNTERPROOF = "counterproof";

    /** Says that the tests below a context are a counterproof, in which hollow ones fail. */
    static void beginCounterproof(ExtensionContext context) {
        context.getStore(SPACE).put(COUNTERPROOF, true);
    }

    private static boolean isAsked(ExtensionContext context) {
        return Boolean.TRUE.equals(context.getStore(SPACE).get(COUNTERPROOF));
    }

    static boolean isCounterproof(ExtensionContext context) {
        return isAsked(context) || CounterproofProperty.isSet();
    }

    /** Tells whether a test runs to leave what it leaves, rather than to be tried. */
    static boolean leavesWhatItIsToLeave(ExtensionContext context) {
        return !isCounterproof(context)
                && variation(context).filter(InVariation::keepsBack).isEmpty();
    }

    /** Finds the story of a test. */
    static Optional<Story> story(ExtensionContext context) {
        return Optional.ofNullable(context.getStore(SPACE).get(STORY, Story.class));
    }

    /** Has the story of a test told by a stage, whatever thread that is called on. */
    static void tells(ExtensionContext context, Stage stage) {
        story(context).ifPresent(story -> {
            story.ownVariation(stage.variation());
            Stories.begin(story, stage.store());
        });
    }

    /** Says that a test runs in a variation. */
    static void runsIn(ExtensionContext context, InVariation variation) {
        context.getStore(SPACE).put(VARIATION, variation);
    }

    private static Optional<InVariation> variation(ExtensionContext context) {
        return Optional.ofNullable(context.getStore(SPACE).get(VARIATION, InVariation.class));
    }

    /** What happens before the first test belongs to each of them. */
    @Override
    public void beforeAll(ExtensionContext context) {
        begin(context);
    }

    @Override
    public void afterAll(ExtensionContext context) {
        story(context).ifPresent(Stories::end);
    }

    @Override
    public void beforeEach(ExtensionContext context) {
        begin(context);
        if (StagedExtension.isHosted(context)) {
            story(context).ifPresent(Story::readsUnnoticed);
        }
        context.getStore(SPACE).put(BEGUN, System.nanoTime());
    }

    private static void begin(ExtensionContext context) {
        Story story = new Story(context.getRequiredTestClass(), isCounterproof(context), SuiteProperty.asksAgain());
        story(context).ifPresent(story::continues);
        context.getStore(SPACE).put(STORY, story);
        Stories.begin(story);
    }

    @Override
    public void afterEach(ExtensionContext context) {
        Story story = story(context).orElseThrow();
        Stories.end(story);
        context.getExecutionException().ifPresent(story::failed);
        Optional<InVariation> variation = variation(context);
        variation.ifPresent(
                in -> in.ended(context.getRequiredTestClass(), story.failure().orElse(null)));
        if (variation.filter(InVariation::keepsBack).isPresent()) {
            return;
        }
        Verdict verdict = story.isCounterproof() ? Verdict.of(story, resultOnly(context)) : null;
        long begun = context.getStore(SPACE).get(BEGUN, Long.class);
        SuiteRecorder.of(context).add(context, story, System.nanoTime() - begun, verdict);
        if (verdict == null) {
            if (context.getExecutionException().isEmpty() && SuiteProperty.looseEndsFail()) {
                requireNoLooseEnds(story);
            }
            return;
        }
        boolean failing = isAsked(context) || CounterproofProperty.hollowTestsFail();
        switch (verdict.kind()) {
            case FAILS -> {
                if (context.getExecutionException().isEmpty()) {
                    throw StoryExtension.<RuntimeException>asIs(story.failure().orElseThrow());
                }
            }
            case HOLLOW -> {
                if (failing && !CounterproofProperty.isKnown(TestName.of(context))) {
                    throw HollowTest.failure(story);
                }
            }
            case NOTICED, NONE -> {}
        }
    }

    private static void requireNoLooseEnds(Story story) {
        List<LooseEnd> ends = story.looseEnds().stream()
                .filter(end -> end.kind() != LooseEnd.Kind.FOOTPRINT)
                .toList();
        if (!ends.isEmpty()) {
            throw new AssertionFailedError("This test leaves " + Words.count(ends.size(), "loose end") + ":"
                    + ends.stream()
                            .map(end ->
                                    "\n  " + end.line().map(line -> line + ": ").orElse("") + end.text())
                            .collect(Collectors.joining()));
        }
    }

    private static Optional<String> resultOnly(ExtensionContext context) {
        for (Optional<ExtensionContext> at = Optional.of(context);
                at.isPresent();
                at = at.get().getParent()) {
            Optional<String> said = AnnotationSupport.findAnnotation(at.get().getElement(), ResultOnly.class)
                    .map(ResultOnly::value);
            if (said.isPresent()) {
                return said;
            }
        }
        return Optional.empty();
    }

    @Override
    public void interceptTestMethod(
            Invocation<Void> invocation, ReflectiveInvocationContext<Method> of, ExtensionContext context)
            throws Throwable {
        run(invocation, context);
    }

    @Override
    public void interceptTestTemplateMethod(
            Invocation<Void> invocation, ReflectiveInvocationContext<Method> of, ExtensionContext context)
            throws Throwable {
        run(invocation, context);
    }

    @Override
    public void interceptBeforeAllMethod(
            Invocation<Void> invocation, ReflectiveInvocationContext<Method> of, ExtensionContext context)
            throws Throwable {
        run(invocation, context);
    }

    @Override
    public void interceptBeforeEachMethod(
            Invocation<Void> invocation, ReflectiveInvocationContext<Method> of, ExtensionContext context)
            throws Throwable {
        run(invocation, context);
    }

    @Override
    public void interceptAfterEachMethod(
            Invocation<Void> invocation, ReflectiveInvocationContext<Method> of, ExtensionContext context)
            throws Throwable {
        run(invocation, context);
    }

    @Override
    public void interceptDynamicTest(
            Invocation<Void> invocation, DynamicTestInvocationContext of, ExtensionContext context) throws Throwable {
        run(invocation, context);
    }

    private static void run(Invocation<Void> invocation, ExtensionContext context) throws Throwable {
        try {
            invocation.proceed();
        } catch (Throwable failure) {
            if (!keepsBack(context, failure)) {
                throw failure;
            }
        }
    }

    /** Takes note of what makes a test fail; tells whether that is all, since the test is judged in the end. */
    static boolean keepsBack(ExtensionContext context, Throwable failure) {
        Story story = story(context).orElse(null);
        if (story == null) {
            return false;
        }
        story.failed(failure);
        boolean asked = variation(context).filter(InVariation::keepsBack).isPresent();
        return (story.isCounterproof() || asked)
                && !(failure instanceof IncompleteExecutionException)
                && !(failure instanceof VirtualMachineError);
    }

    @SuppressWarnings({"unchecked", "TypeParameterUnusedInFormals"})
    private static <X extends Throwable> X asIs(Throwable e) throws X {
        throw (X) e;
    }
}
