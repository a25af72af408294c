package dev.zabbet.spring;

import org.junit.jupiter.api.condition.EnabledIfEnvironmentVariable;
import org.springframework.test.context.DynamicPropertyRegistry;
import org.springframework.test.context.DynamicPropertySource;
import org.springframework.test.context.TestPropertySource;

/** The same on a MariaDB whose tables the provider makes of the entities. */
@EnabledIfEnvironmentVariable(named = "ZABBET_TEST_MARIADB", matches = ".+")
@TestPropertySource(
        properties = {
            "spring.flyway.enabled=false",
            "spring.jpa.hibernate.ddl-auto=create",
            "spring.jpa.defer-datasource-initialization=true",
            "spring.sql.init.mode=always",
            "spring.sql.init.data-locations=classpath:db/first-hut.sql"
        })
class MariaDbStageTest extends SpringBootStageTest {
    @DynamicPropertySource
    static void database(DynamicPropertyRegistry properties) {
        Server.register("ZABBET_TEST_MARIADB", properties);
    }
}
