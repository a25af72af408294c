/**
 * Stages in tests with Spring.
 *
 * <p>There is nothing to call: with this module on the class path, {@link dev.zabbet.junit.Staged} on a Spring test finds the
 * database of the application context. Its one rule: a stage sees what the test sees, inside the test's transaction where
 * there is one.
 *
 * <pre>{@code
 * @SpringBootTest
 * @Staged
 * class CancelStayTest {
 *     @Autowired
 *     FrontDesk desk;
 *
 *     @Test
 *     void cancellingRefundsTheGuest(Stage stage) {
 *         Row stay = stage.add("stay");
 *         stage.act(() -> desk.cancel((Long) stay.get("id"))).expect().changed("stay").added("refund").nothingElse();
 *     }
 * }
 * }</pre>
 */
@NullMarked
package dev.zabbet.spring;

import org.jspecify.annotations.NullMarked;
