/**
 * What fakes of Spring Data's repositories do beyond what the names of their methods say. {@link
 * dev.zabbet.spring.internal.data.SpringDataSupport} is found by fakes; everything else here is touched only where Spring Data
 * is there.
 */
@NullMarked
package dev.zabbet.spring.internal.data;

import org.jspecify.annotations.NullMarked;
