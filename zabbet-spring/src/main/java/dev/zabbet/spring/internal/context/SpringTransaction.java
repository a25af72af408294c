package dev.zabbet.spring.internal.context;

import dev.zabbet.jdbc.internal.store.CallerTransaction;
import java.util.Map;
import java.util.Optional;
import javax.sql.DataSource;
import org.springframework.jdbc.datasource.ConnectionHolder;
import org.springframework.jdbc.datasource.DelegatingDataSource;
import org.springframework.transaction.support.TransactionSynchronizationManager;
import org.springframework.util.ClassUtils;

/** The transaction that Spring has open on the thread, for one database. */
public final class SpringTransaction implements CallerTransaction {
    private static final boolean HAS_ENTITY_MANAGERS = ClassUtils.isPresent(
                    "org.springframework.orm.jpa.EntityManagerHolder", SpringTransaction.class.getClassLoader())
            && ClassUtils.isPresent("jakarta.persistence.EntityManager", SpringTransaction.class.getClassLoader());

    private final DataSource dataSource;

    public SpringTransaction(DataSource dataSource) {
        this.dataSource = dataSource;
    }

    @Override
    public Optional<Open> open() {
        if (!TransactionSynchronizationManager.isActualTransactionActive()) {
            return Optional.empty();
        }
        for (Map.Entry<Object, Object> resource :
                TransactionSynchronizationManager.getResourceMap().entrySet()) {
            if (resource.getValue() instanceof ConnectionHolder holder && isOf(resource.getKey())) {
                return Optional.of(new Open(holder, holder.getConnection()));
            }
        }
        return Optional.empty();
    }

    private boolean isOf(Object key) {
        Object at = key;
        while (at != dataSource && at instanceof DelegatingDataSource proxy) {
            at = proxy.getTargetDataSource();
        }
        return at == dataSource;
    }

    @Override
    public void flush() {
        if (HAS_ENTITY_MANAGERS) {
            EntityManagers.flush();
        }
    }

    @Override
    public void takenBack() {
        if (HAS_ENTITY_MANAGERS) {
            EntityManagers.clear();
        }
    }
}
