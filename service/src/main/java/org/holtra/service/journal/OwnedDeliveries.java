package org.holtra.service.journal;

import java.util.List;
import java.util.UUID;
import org.holtra.service.cluster.WorkOfNodes;
import org.holtra.service.journal.sql.OwedMapper;
import org.springframework.stereotype.Component;

/** The deliveries that nodes have in their hands. */
@Component
class OwnedDeliveries implements WorkOfNodes {

    private final OwedMapper mapper;

    OwnedDeliveries(OwedMapper mapper) {
        this.mapper = mapper;
    }

    @Override
    public List<String> free(List<UUID> nodes) {
        return mapper.freeOf(nodes.toArray(UUID[]::new));
    }

    @Override
    public List<String> freeOrphans() {
        return mapper.freeOrphans();
    }
}
