package dev.zabbet.spring;

import org.junit.jupiter.api.condition.EnabledIfEnvironmentVariable;
import org.springframework.test.context.DynamicPropertyRegistry;
import org.springframework.test.context.DynamicPropertySource;

/** The same on a migrated PostgreSQL. */
@EnabledIfEnvironmentVariable(named = "ZABBET_TEST_POSTGRES", matches = ".+")
class PostgresStageTest extends SpringBootStageTest {
    @DynamicPropertySource
    static void database(DynamicPropertyRegistry properties) {
        Server.register("ZABBET_TEST_POSTGRES", properties);
    }
}
