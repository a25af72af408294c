package dev.zabbet.junit;

import dev.zabbet.junit.internal.ClassTemplatesNeeded;
import dev.zabbet.junit.internal.EveryStageExtension;
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
 * Runs a test class on several stages, one after the other: in memory, on an embedded H2, and on each database that is
 * configured. Each run is named in the report, and in each failure. Tests take the stage as with {@link Staged}, and their data access by
 * {@link dev.zabbet.Stage#fakeOrReal}.
 *
 * <p>Where the acts of a test leave other rows on one stage than on the first, the test fails there and says in what:
 * all values count but keys that the database numbers, and what it fills in by itself.
 *
 * <p>Needs JUnit 5.13 or later; an older one is refused in words.
 */
@Documented
@Inherited
@ClassTemplate
@Target(ElementType.TYPE)
@Retention(RetentionPolicy.RUNTIME)
@SuppressWarnings("exports") // JUnit makes the extension, and nobody else names it
@ExtendWith(ClassTemplatesNeeded.class)
@ExtendWith(EveryStageExtension.class)
@ExtendWith(StoryExtension.class)
public @interface EveryStage {
    /**
     * {@return the application's DDL: a resource on the class path, or a file} For a database whose DDL differs, a script beside it
     * is taken, if there is one: {@code huts.mariadb.sql} for {@code huts.sql}; likewise h2, sqlite and postgresql.
     */
    String value() default "";

    /** {@return the DDL itself, where there is no script: statements separated by semicolons} */
    String sql() default "";

    /**
     * {@return where to run: {@code "memory"}, {@code "h2"}, {@code "postgres"} and {@code "mariadb"} as {@link Staged#on} has them, or JDBC
     * URLs as {@link Staged#url} has them} A database of the test's
     * own is made beside the one that a URL names. {@code "${STAGE:memory}"} takes one, or several with blanks between them,
     * from the environment (or a system property), here {@code memory} where STAGE is not set. Without more said: memory, h2,
     * and the URLs that ZABBET_DATABASES lists, with blanks between them.
     *
     * <p>Where ZABBET_STAGES is set in the environment, or as a system property, its list takes the place of what is said
     * here: {@code ZABBET_STAGES="memory h2"} runs everything without a server.
     */
    String[] on() default {};

    /** {@return what is loaded before the first test of each run; as {@link Staged#load}} */
    String[] load() default {};

    /** {@return a row document whose expectations on what is stored have to hold after each test; as {@link Staged#expect}} */
    String expect() default "";

    /** {@return the number that all invented values follow from; without it the property {@code zabbet.variation}, or 0} */
    long variation() default Staged.AS_PROPERTY;
}
