package dev.zabbet.examples.spring;

import org.springframework.data.jpa.repository.JpaRepository;

/** The refunds. */
public interface Refunds extends JpaRepository<Refund, Long> {}
