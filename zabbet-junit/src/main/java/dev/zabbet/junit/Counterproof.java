package dev.zabbet.junit;

import dev.zabbet.junit.internal.ClassTemplatesNeeded;
import dev.zabbet.junit.internal.CounterproofExtension;
import dev.zabbet.junit.internal.StoryExtension;
import java.lang.annotation.Documented;
import java.lang.annotation.ElementType;
import java.lang.annotation.Inherited;
import java.lang.annotation.Retention;
import java.lang.annotation.RetentionPolicy;
import java.lang.annotation.Target;
import org.junit.jupiter.api.ClassTemplate;
import org.junit.jupiter.api.extension.ExtendWith;

/**
 * Runs the tests of a class twice: as they are written, and as a counterproof. In the counterproof what each act stores is taken
 * away as soon as the act ends; it returns and throws what it always does. A test that passes all the same would pass if the
 * application stored nothing: it is <em>hollow</em>, and fails here. Any other end of a test is what should be, and passes.
 *
 * <p>A test has no verdict if its acts store nothing, if it says that {@linkplain ResultOnly only the result counts}, if an
 * assumption ends it, or if a later act throws since what an earlier one stored is gone.
 *
 * <p>For a whole suite at once, and without a change to it, set the system property {@code zabbet.counterproof} to {@code true}, or to
 * {@code fail} for hollow tests to fail. Tests that a file lists, which {@code zabbet.counterproof.known} names, do not fail.
 *
 * <p>Stands beside {@link Staged} or {@link EveryStage}, or alone on a class that opens its stages itself. Needs JUnit 5.13 or later,
 * the property does not.
 */
@Documented
@Inherited
@ClassTemplate
@Target(ElementType.TYPE)
@Retention(RetentionPolicy.RUNTIME)
@SuppressWarnings("exports") // JUnit makes the extensions, and nobody else names them
@ExtendWith(ClassTemplatesNeeded.class)
@ExtendWith(CounterproofExtension.class)
@ExtendWith(StoryExtension.class)
public @interface Counterproof {}
