package dev.zabbet.junit;

import java.lang.annotation.Documented;
import java.lang.annotation.ElementType;
import java.lang.annotation.Retention;
import java.lang.annotation.RetentionPolicy;
import java.lang.annotation.Target;

/**
 * Marks the static field of a test class that holds its database: a {@link javax.sql.DataSource}, or a
 * {@link java.util.function.Supplier} of one. Read once, before the first test.
 */
@Documented
@Target(ElementType.FIELD)
@Retention(RetentionPolicy.RUNTIME)
public @interface Database {}
