package dev.zabbet.junit;

import java.lang.annotation.Documented;
import java.lang.annotation.ElementType;
import java.lang.annotation.Inherited;
import java.lang.annotation.Retention;
import java.lang.annotation.RetentionPolicy;
import java.lang.annotation.Target;
import org.junit.jupiter.api.extension.ExtendWith;

/**
 * Gives a test class a stage on an embedded H2 database: one for the class, rewound after every test to how it was
 * before that test. Test methods, lifecycle methods and constructors take it as a parameter of type
 * {@link dev.zabbet.Stage}, or the database as one of type {@link javax.sql.DataSource}.
 *
 * <p>Rows stored in {@code @BeforeAll} stay for all tests. Nested test classes share the stage. Tests of one class never run at the same time, even where
 * JUnit runs tests in parallel; different classes do.
 */
@Documented
@Inherited
@Target(ElementType.TYPE)
@Retention(RetentionPolicy.RUNTIME)
@ExtendWith(StagedExtension.class)
public @interface Staged {

    /** The application's DDL: a resource on the class path, such as {@code "/db/huts.sql"}, or a file. */
    String value() default "";

    /** The DDL itself, where there is no script: statements separated by semicolons. */
    String sql() default "";
}
