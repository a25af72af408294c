package dev.zabbet.spring.internal.context;

import jakarta.persistence.EntityManager;
import java.util.List;
import java.util.Objects;
import org.springframework.orm.jpa.EntityManagerFactoryUtils;
import org.springframework.orm.jpa.EntityManagerHolder;
import org.springframework.transaction.support.TransactionSynchronizationManager;

/** The entity managers that take part in the transaction on the thread. Touched only where Jakarta Persistence is there. */
final class EntityManagers {
    private EntityManagers() {}

    private static List<EntityManager> all() {
        return TransactionSynchronizationManager.getResourceMap().values().stream()
                .filter(EntityManagerHolder.class::isInstance)
                .map(holder -> ((EntityManagerHolder) holder).getEntityManager())
                .filter(manager -> manager.isOpen() && manager.isJoinedToTransaction())
                .toList();
    }

    /** Sends what they hold back; what is refused is thrown as a repository would throw it. */
    static void flush() {
        for (EntityManager manager : all()) {
            try {
                manager.flush();
            } catch (RuntimeException e) {
                throw Objects.requireNonNullElse(EntityManagerFactoryUtils.convertJpaAccessExceptionIfPossible(e), e);
            }
        }
    }

    /** Makes them forget the objects that they have read. */
    static void clear() {
        all().forEach(EntityManager::clear);
    }
}
