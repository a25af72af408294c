package dev.zabbet.spring;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.platform.engine.discovery.DiscoverySelectors.selectClass;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.junit.Staged;
import dev.zabbet.spring.huts.HutsApplication;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.condition.EnabledIfEnvironmentVariable;
import org.junit.platform.engine.TestExecutionResult;
import org.junit.platform.testkit.engine.EngineTestKit;
import org.springframework.boot.test.context.SpringBootTest;
import org.springframework.test.context.DynamicPropertyRegistry;
import org.springframework.test.context.DynamicPropertySource;

/** A migrated database on a server that nobody has dedicated to tests is left alone. */
@EnabledIfEnvironmentVariable(named = "ZABBET_TEST_POSTGRES", matches = ".+")
class UndedicatedTest {
    private static String url = "";

    @Staged
    @SpringBootTest(classes = HutsApplication.class)
    static class OnAMigratedDatabase {
        @DynamicPropertySource
        static void database(DynamicPropertyRegistry properties) {
            url = Server.register("ZABBET_TEST_POSTGRES", properties);
            properties.add("zabbet.dedicate", () -> "");
        }

        @Test
        void isRefused(Stage stage) {}
    }

    @Test
    void theMessageSaysHowToDedicateIt() {
        Throwable thrown = EngineTestKit.engine("junit-jupiter")
                .selectors(selectClass(OnAMigratedDatabase.class))
                .execute()
                .testEvents()
                .failed()
                .stream()
                .findFirst()
                .orElseThrow()
                .getRequiredPayload(TestExecutionResult.class)
                .getThrowable()
                .orElseThrow();
        while (!(thrown instanceof ZabbetException)) {
            thrown = thrown.getCause();
        }
        String name = url.replaceFirst(".*/([^/?]+).*", "$1");
        String place = url.replaceFirst("jdbc:postgresql://([^/]+)/.*", "$1");
        assertEquals(
                "Nothing was written to the PostgreSQL database " + name + " on " + place
                        + ", which holds 4 tables and 2 rows. It is not dedicated to tests.\n"
                        + "If it is meant for tests, and all that it holds may be lost, dedicate it once:\n"
                        + "  zabbet dedicate --db " + url.replaceFirst("\\?.*", "") + " --may-lose " + name + "\n"
                        + "or in code: Jdbc.dedicate(dataSource, \"" + name + "\").\n"
                        + "or in the properties of the tests (src/test/resources/application.properties):"
                        + " zabbet.dedicate=" + name,
                String.valueOf(thrown.getMessage()).replaceAll("(--db \\S+?)(\\?\\S*)? --may", "$1 --may"));
    }
}
