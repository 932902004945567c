package org.holtra.service.cluster;

import java.util.HashMap;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.core.NestedExceptionUtils;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;

/**
 * Which node runs an inlet that runs on one node only. An inlet is its node's as long as the node is there; one whose node is
 * gone is taken by whoever asks first.
 */
@Component
public class InletOwners {

    private static final Logger log = LoggerFactory.getLogger(InletOwners.class);

    private final InletOwnerMapper mapper;
    private final Node node;

    /** The id under which this node took each. */
    private final Map<String, UUID> mine = new ConcurrentHashMap<>();

    InletOwners(InletOwnerMapper mapper, Node node) {
        this.mapper = mapper;
        this.node = node;
    }

    /**
     * Takes those of these inlets that nobody runs.
     *
     * @return the name of the node that runs each
     */
    public Map<String, String> claim(Set<String> inlets) {
        UUID id = node.id();
        mapper.claim(inlets.toArray(String[]::new), id);
        Map<String, String> owners = new HashMap<>();
        for (InletOwnerMapper.Owner owner : mapper.owners(inlets.toArray(String[]::new))) {
            owners.put(owner.inlet(), owner.name());
            if (owner.node().equals(id)) {
                mine.put(owner.inlet(), id);
            } else {
                mine.remove(owner.inlet());
            }
        }
        mine.keySet().retainAll(inlets);
        return owners;
    }

    /** Whether this node runs an inlet, and nobody gives the node up at the moment. */
    public boolean isMine(String inlet) {
        UUID id = mine.get(inlet);
        return id != null && node.holds(id);
    }

    public Set<String> mine() {
        return Set.copyOf(mine.keySet());
    }

    /** Lets others take them at once. */
    public void leave(Set<String> inlets) {
        if (!inlets.isEmpty()) {
            mine.keySet().removeAll(inlets);
            try {
                mapper.release(inlets.toArray(String[]::new), node.id());
            } catch (DataAccessException | TransactionException e) {
                log.warn(
                        "{} are taken over when the lease of this node runs out: {}",
                        inlets,
                        NestedExceptionUtils.getMostSpecificCause(e).getMessage());
            }
        }
    }
}
