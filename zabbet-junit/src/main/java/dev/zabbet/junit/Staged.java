package dev.zabbet.junit;

import dev.zabbet.junit.internal.StagedExtension;
import dev.zabbet.junit.internal.StoryExtension;
import java.lang.annotation.Documented;
import java.lang.annotation.ElementType;
import java.lang.annotation.Inherited;
import java.lang.annotation.Retention;
import java.lang.annotation.RetentionPolicy;
import java.lang.annotation.Target;
import org.junit.jupiter.api.extension.ExtendWith;

/**
 * Gives a test class a stage: one for the class, rewound after every test to how it was before that test. Test methods,
 * lifecycle methods and constructors take it as a parameter of type {@link dev.zabbet.Stage}, or the database as one of
 * type {@link javax.sql.DataSource}.
 *
 * <p>Without more said it is on an H2 database in memory, of its own. {@link #url} names another; {@link #provider}, or a
 * static field annotated with {@link Database}, gives one that the application's tests have already. Such a database has
 * to be dedicated to tests; an empty one is dedicated on the way. The DDL is run where there is no table yet, and when
 * the class is done the rows are as they were before it.
 *
 * <p>In a test that Spring runs, with {@code zabbet-spring} on the class path, it is on the database of the application context,
 * and inside the test's own transaction while Spring has one open; then only the stage is a parameter.
 *
 * <p>Rows stored in {@code @BeforeAll} stay for all tests. Nested test classes share the stage. Tests of one class never
 * run at the same time, even where JUnit runs tests in parallel; different classes do.
 */
@Documented
@Inherited
@Target(ElementType.TYPE)
@Retention(RetentionPolicy.RUNTIME)
@SuppressWarnings("exports") // JUnit makes the extension, and nobody else names it
@ExtendWith(StoryExtension.class)
@ExtendWith(StagedExtension.class)
public @interface Staged {

    /**
     * {@return the application's DDL: a resource on the class path, such as {@code "/db/huts.sql"}, or a file} For a database whose DDL
     * differs, a script beside it is taken, if there is one: {@code huts.mariadb.sql} for {@code huts.sql}; likewise h2,
     * sqlite and postgresql. Body text of triggers and routines, dollar quotes and DELIMITER lines are understood.
     */
    String value() default "";

    /** {@return the DDL itself, where there is no script: statements separated by semicolons} */
    String sql() default "";

    /**
     * {@return the database's JDBC URL} {@code ${NAME:otherwise}} stands for the environment's (or the system property's) NAME,
     * or for what follows the colon if there is none: {@code "${HUTS_DB:jdbc:h2:mem:huts}"}. User and password come from
     * ZABBET_USER and ZABBET_PASSWORD, unless the URL holds them.
     */
    String url() default "";

    /**
     * {@return a server with nothing installed: {@code "postgres"} or {@code "mariadb"}, from a jar on the class path; see {@link
     * dev.zabbet.jdbc.LocalServer}} The class gets a database of its own there. Takes a script, or sql.
     */
    String on() default "";

    /**
     * {@return the name of the DataSource bean, in a test whose framework has set up several; without it the only one, or the one that
     * is primary} Not looked at elsewhere.
     */
    String dataSource() default "";

    /** {@return what gives the database} */
    Class<? extends DatabaseProvider> provider() default DatabaseProvider.class;

    /**
     * {@return whether the class gets a database of its own beside the one that {@link #url} names, so that classes run at the
     * same time, in threads or forks: {@code huts_1}, {@code huts_2} and so on, made when they are first needed and used
     * again; see {@link dev.zabbet.jdbc.Databases}} Takes a url, and a script or sql.
     */
    boolean ownDatabase() default false;

    /**
     * {@return whether the stage lives in one transaction that is rolled back after the class, for a database that nothing may be
     * committed to; {@link dev.zabbet.jdbc.Jdbc#stageInTransaction} names the limits} Takes a database whose tables are
     * there.
     */
    boolean inTransaction() default false;

    /**
     * {@return what is loaded before the first test of the class, and stays for all of them: row documents, tables in CSV or
     * Markdown, or folders of these; on the class path or as files}
     */
    String[] load() default {};

    /** {@return a row document whose expectations on what is stored have to hold after each test of the class} */
    String expect() default "";

    /** {@return the number that all invented values follow from; without it the property {@code zabbet.variation}, or 0} */
    long variation() default AS_PROPERTY;

    /** Stands for the variation that the property {@code zabbet.variation} says. */
    long AS_PROPERTY = Long.MIN_VALUE;
}
