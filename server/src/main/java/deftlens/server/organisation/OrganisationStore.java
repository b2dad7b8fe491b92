package deftlens.server.organisation;

import org.springframework.data.repository.Repository;

interface OrganisationStore extends Repository<Organisation, Short> {
    Organisation getById(short id);
}
