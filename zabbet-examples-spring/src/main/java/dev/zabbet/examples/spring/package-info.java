/**
 * The alpine huts as a Spring Boot application: guests book and cancel stays over HTTP.
 *
 * <p>The entry type is {@link dev.zabbet.examples.spring.HutsApplication}; its tests show every way to test it.
 */
package dev.zabbet.examples.spring;
