package dev.zabbet.junit;

import java.lang.annotation.Documented;
import java.lang.annotation.ElementType;
import java.lang.annotation.Inherited;
import java.lang.annotation.Retention;
import java.lang.annotation.RetentionPolicy;
import java.lang.annotation.Target;

/**
 * Says of a test, or of all tests of a class, that only what the code under test returns, throws or sends counts, though it stores
 * something too. A {@linkplain Counterproof counterproof} does not call such a test hollow.
 */
@Documented
@Inherited
@Target({ElementType.METHOD, ElementType.TYPE})
@Retention(RetentionPolicy.RUNTIME)
public @interface ResultOnly {
    /** {@return why what is stored does not count in this test, for whoever reads the test and the report} */
    String value();
}
