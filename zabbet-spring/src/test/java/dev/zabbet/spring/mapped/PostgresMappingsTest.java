package dev.zabbet.spring.mapped;

import dev.zabbet.spring.Server;
import org.junit.jupiter.api.condition.EnabledIfEnvironmentVariable;
import org.springframework.test.context.DynamicPropertyRegistry;
import org.springframework.test.context.DynamicPropertySource;

/** The same on PostgreSQL. */
@EnabledIfEnvironmentVariable(named = "ZABBET_TEST_POSTGRES", matches = ".+")
class PostgresMappingsTest extends MappingsTest {
    @DynamicPropertySource
    static void database(DynamicPropertyRegistry properties) {
        Server.register("ZABBET_TEST_POSTGRES", properties);
    }
}
