/**
 * Stages in JUnit 5 tests.
 *
 * <p>The entry type is {@link dev.zabbet.junit.Staged}. Its one rule: every test finds the stage as the class set it up.
 *
 * <pre>{@code
 * import dev.zabbet.Stage;
 * import dev.zabbet.junit.Staged;
 * import dev.zabbet.row.Row;
 * import org.junit.jupiter.api.Test;
 *
 * @Staged("/db/huts.sql")
 * class CancelStayTest {
 *     @Test
 *     void cancellingRefundsTheGuest(Stage stage) {
 *         Row stay = stage.add("stay");
 *     }
 * }
 * }</pre>
 */
@NullMarked
package dev.zabbet.junit;

import org.jspecify.annotations.NullMarked;
