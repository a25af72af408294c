package dev.zabbet.spring.internal.context;

import dev.zabbet.internal.type.EntityMapping;
import jakarta.persistence.EntityManagerFactory;
import java.lang.System.Logger;
import java.lang.System.Logger.Level;
import java.util.HashMap;
import java.util.Map;
import org.springframework.context.ApplicationContext;
import org.springframework.util.ClassUtils;

/** Asks the persistence providers of a context how they store entities. */
final class ProviderMappings {
    private static final Logger LOG = System.getLogger("dev.zabbet.spring");
    private static final boolean HAS_PROVIDERS = isPresent("jakarta.persistence.EntityManagerFactory")
            && isPresent("org.springframework.orm.jpa.JpaVendorAdapter");
    private static final boolean HAS_HIBERNATE = isPresent("org.hibernate.metamodel.mapping.EntityMappingType");

    private ProviderMappings() {}

    private static boolean isPresent(String type) {
        return ClassUtils.isPresent(type, ProviderMappings.class.getClassLoader());
    }

    /**
     * Has them say what they know ({@link EntityMapping#say}).
     *
     * @return the sequences that keys are taken from, by the names of tables
     */
    static Map<String, String> read(ApplicationContext context) {
        Map<String, String> sequences = new HashMap<>();
        if (HAS_PROVIDERS && HAS_HIBERNATE) {
            for (EntityManagerFactory factory : context.getBeansOfType(EntityManagerFactory.class, false, false)
                    .values()) {
                try {
                    HibernateMappings.read(factory, sequences);
                } catch (LinkageError e) {
                    LOG.log(
                            Level.WARNING,
                            "This version of Hibernate does not tell Zabbet how it stores entities ({0}); their annotations"
                                    + " are read instead.",
                            e.toString());
                }
            }
        }
        return sequences;
    }
}
