package dev.zabbet.junit;

import dev.zabbet.junit.internal.StoryExtension;
import dev.zabbet.junit.internal.VariationsExtension;
import java.lang.annotation.Documented;
import java.lang.annotation.ElementType;
import java.lang.annotation.Inherited;
import java.lang.annotation.Retention;
import java.lang.annotation.RetentionPolicy;
import java.lang.annotation.Target;
import org.junit.jupiter.api.TestTemplate;
import org.junit.jupiter.api.extension.ExtendWith;
import org.junit.jupiter.api.parallel.Execution;
import org.junit.jupiter.api.parallel.ExecutionMode;

/**
 * Runs a test in many variations of invented values, in the place of {@code @Test}. Variation 0 has the values that the test has without
 * this; in the others optional columns and parents are empty or filled, and in every second one values go to edges: bounds of checks,
 * zero, leap days, short and long text, other scripts.
 *
 * <p>If the test fails in some variations and passes in others, values are exchanged between two of them, column by column, until
 * the smallest set is found that decides. A last run named "what decides" fails with the report: <em>fails only where stay.nights = 1;
 * passes for 2, 3, 7, 14</em>. What is found is the same each time.
 *
 * <p>The stage has to be the one that {@link Staged} or {@link EveryStage} gives; values that code under test or the test invents by
 * other means are not known. In a {@linkplain Counterproof counterproof} the test runs once, in variation 0.
 */
@Documented
@Inherited
@TestTemplate
@Target(ElementType.METHOD)
@Retention(RetentionPolicy.RUNTIME)
@Execution(ExecutionMode.SAME_THREAD) // one run after another: each next one depends on those before
@SuppressWarnings("exports") // JUnit makes the extensions, and nobody else names them
@ExtendWith(StoryExtension.class)
@ExtendWith(VariationsExtension.class)
public @interface Variations {
    /** {@return in how many variations the test runs, at least 2; the system property {@code zabbet.variations} takes its place} */
    int value() default 50;

    /** {@return how many more runs the search for what decides may take, at least 1} */
    int exchanges() default 200;

    /** {@return how many seconds that search may take, at least 1} */
    int seconds() default 30;
}
