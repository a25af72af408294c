/**
 * Criteria queries over objects in memory: {@link dev.zabbet.spring.internal.criteria.CriteriaQueries} hands out the root, the
 * query and the builder that a condition is put together with, and reads from them what to look for. What is not known is
 * refused where it is called.
 */
@NullMarked
package dev.zabbet.spring.internal.criteria;

import org.jspecify.annotations.NullMarked;
